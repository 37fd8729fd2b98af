import { keepPreviousData, useQuery } from "@tanstack/react-query";
import type { Moment } from "../api/client";
import { useLocation } from "react-router-dom";
import { MOMENT_PAGE, momentsQuery, noExtras, runQuery, type Extras } from "../api/queries";
import { useBench } from "../bench/BenchContext";
import { useStep } from "../steps/StepContext";

/** The run of the selected module; in the run view with what was added to it by hand (given, or of the step context). */
export function useRun(given?: Extras) {
  const { module } = useBench();
  const { extras } = useStep();
  const { pathname } = useLocation();
  return useQuery(runQuery(module, pathname === "/run" ? (given ?? extras) : noExtras));
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
