import { useQuery } from "@tanstack/react-query";
import { useBench } from "./BenchContext";
import { tableQuery } from "./setup";

/** What lies on the table, or would. */
export function useWiring() {
  const { bench, setup } = useBench();
  return useQuery(tableQuery(bench, setup));
}
