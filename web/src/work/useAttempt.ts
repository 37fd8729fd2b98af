import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useRef, useState } from "react";
import { flushSync } from "react-dom";
import { reason, type Module } from "../api/client";
import { noExtras, runQuery } from "../api/queries";
import { useLatest } from "../ui/useLatest";
import { useBench } from "./BenchContext";
import { setupOf } from "./setup";

/**
 * Changes of the selected module that are made only where the server can run
 * what they make of it; error says why the last one was not.
 */
export function useAttempt() {
  const { bench, module, changeModule } = useBench();
  const queries = useQueryClient();
  const [error, setError] = useState<string>();
  const latest = useLatest({ bench, module });
  const queue = useRef<Promise<unknown>>(Promise.resolve());
  const attempt = useCallback(
    (next: (m: Module) => Module): Promise<string | undefined> => {
      const one = queue.current.then(async () => {
        try {
          const { bench: b, module: m } = latest.current;
          const changed = next(m);
          const setup = setupOf({ ...b, modules: b.modules.map((other) => (other === m ? changed : other)) }, changed);
          await queries.fetchQuery(runQuery(setup, noExtras)); // the view finds it at hand
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
