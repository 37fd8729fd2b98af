import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { createContext, useContext, useEffect, useMemo } from "react";
import { ApiError, type Module, type Moment, type RunResult } from "../api/client";
import { MOMENT_PAGE, momentsQuery, runQuery, type Extras } from "../api/queries";
import { ahead } from "./ahead";
import { useBench } from "./BenchContext";
import { reason } from "./reason";

/** The run of the selected module, with what the view adds to it. */
export interface CurrentRun {
  /** The last run while the next is computed, or cannot be. */
  data: RunResult | undefined;
  /** Why the module as it stands cannot be run. */
  error: string | undefined;
  /** The program does not answer; it is asked again until it does. */
  unreachable: boolean;
  /** Asks for the run of a changed module before the page is drawn with the change; gives it once it is there, undefined where it failed. */
  ahead: (next: Module) => Promise<RunResult | undefined>;
}

export const RunContext = createContext<CurrentRun>({
  data: undefined,
  error: undefined,
  unreachable: false,
  ahead: () => Promise.resolve(undefined),
});

export const useRun = () => useContext(RunContext);

/**
 * Asks for the run of the selected module; the last one of that module stands until it is there. A module that never ran
 * shows the one before it for the moment that its first run takes, not for as long as the program cannot be reached.
 */
export function useCurrentRun(extras: Extras): CurrentRun {
  const { id, module, screen, setup, setupOf } = useBench();
  const queries = useQueryClient();
  const lastKey = useMemo(() => ["last run", id, module.id, screen.id], [id, module.id, screen.id]);
  const { data, isPlaceholderData, error, failureReason } = useQuery({
    ...runQuery(setup, extras),
    placeholderData: (before: RunResult | undefined) => queries.getQueryData<RunResult>(lastKey) ?? before,
  });
  useEffect(() => {
    if (!data || isPlaceholderData) return;
    queries.setQueryDefaults(lastKey, { gcTime: Infinity });
    queries.setQueryData(lastKey, data);
  }, [queries, lastKey, data, isPlaceholderData]);
  const trouble = error ?? failureReason;
  const refused = trouble instanceof ApiError ? reason(trouble) : undefined;
  const unreachable = trouble !== null && refused === undefined;
  const shown = data && !(isPlaceholderData && unreachable) ? data : undefined;
  return useMemo(
    () => ({
      data: shown ?? queries.getQueryData<RunResult>(lastKey),
      error: refused,
      unreachable,
      ahead: (next: Module) => ahead(queries, runQuery(setupOf(next), extras)),
    }),
    [shown, queries, lastKey, refused, unreachable, setupOf, extras],
  );
}

/** The module after a number of steps of a run; undefined while it is read. */
export function useMoment(run: string | undefined, steps: number | null): Moment | undefined {
  const page = Math.floor((steps ?? 0) / MOMENT_PAGE);
  const { data } = useQuery({
    ...momentsQuery(run ?? "", page),
    enabled: run !== undefined && steps !== null,
    placeholderData: keepPreviousData, // the last moment stands until the next is read
  });
  return steps === null ? undefined : (data?.[steps - page * MOMENT_PAGE] ?? data?.at(-1));
}
