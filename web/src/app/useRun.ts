import { useQuery } from "@tanstack/react-query";
import type { Moment } from "../api/client";
import { MOMENT_PAGE, momentsQuery, runQuery } from "../api/queries";
import { useBench } from "../bench/BenchContext";

/** The run of the selected module. */
export function useRun() {
  const { module } = useBench();
  return useQuery(runQuery(module));
}

/** The module after a number of steps of a run; undefined while it is read. */
export function useMoment(run: string | undefined, steps: number | null): Moment | undefined {
  const page = Math.floor((steps ?? 0) / MOMENT_PAGE);
  const { data } = useQuery({ ...momentsQuery(run ?? "", page), enabled: run !== undefined && steps !== null });
  return steps === null ? undefined : data?.[steps - page * MOMENT_PAGE];
}
