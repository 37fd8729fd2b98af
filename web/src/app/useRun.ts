import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { createContext, useContext } from "react";
import type { Module, Moment, RunResult } from "../api/client";
import { MOMENT_PAGE, momentsQuery } from "../api/queries";

/** The run of the selected module, with what the view adds to it. */
export interface CurrentRun {
  /** The last run while the next is computed. */
  data: RunResult | undefined;
  error: Error | null;
  /** Asks for the run of a changed module before the page is drawn with the change; settles when it is there or failed. */
  ahead: (next: Module) => Promise<void>;
}

export const RunContext = createContext<CurrentRun>({ data: undefined, error: null, ahead: () => Promise.resolve() });

export const useRun = () => useContext(RunContext);

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
