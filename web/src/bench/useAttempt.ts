import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { reason, type Module } from "../api/client";
import { noExtras, runQuery } from "../api/queries";
import { useBench } from "./BenchContext";

/**
 * Changes of the selected module that are made only where the server can run
 * what they make of it; error says why the last one was not.
 */
export function useAttempt() {
  const { module, changeModule } = useBench();
  const queries = useQueryClient();
  const [error, setError] = useState<string>();
  const attempt = useCallback(
    async (next: (m: Module) => Module): Promise<string | undefined> => {
      try {
        await queries.fetchQuery(runQuery(next(module), noExtras)); // the view finds it at hand
        changeModule(next);
        setError(undefined);
        return undefined;
      } catch (e) {
        setError(reason(e));
        return reason(e);
      }
    },
    [module, changeModule, queries],
  );
  return { attempt, error };
}
