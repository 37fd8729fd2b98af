import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useRef, useState } from "react";
import { flushSync } from "react-dom";
import { type Module } from "../api/client";
import { noExtras, runQuery } from "../api/queries";
import { useLatest } from "../ui/useLatest";
import { useBench } from "./BenchContext";
import { reason } from "./reason";

/**
 * Changes of the selected module that are made only where the server can run
 * what they make of it; error says why the last one was not.
 */
export function useAttempt() {
  const { module, setupOf, changeModule } = useBench();
  const queries = useQueryClient();
  const [error, setError] = useState<string>();
  const latest = useLatest({ module, setupOf });
  const queue = useRef<Promise<unknown>>(Promise.resolve());
  const attempt = useCallback(
    (next: (m: Module) => Module): Promise<string | undefined> => {
      const one = queue.current.then(async () => {
        try {
          const changed = next(latest.current.module);
          await queries.fetchQuery(runQuery(latest.current.setupOf(changed), noExtras)); // the view finds it at hand
          flushSync(() => changeModule(next)); // the next attempt builds on it
          setError(undefined);
          return undefined;
        } catch (e) {
          setError(reason(e));
          return reason(e);
        }
      });
      queue.current = one;
      return one;
    },
    [changeModule, latest, queries],
  );
  return { attempt, error };
}
