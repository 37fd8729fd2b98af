import { useQuery } from "@tanstack/react-query";
import { wiringQuery } from "../api/queries";
import { useBench } from "./BenchContext";
import { wiringOf } from "./setup";

/** What lies on the table, or would. */
export function useWiring() {
  const { bench, setup } = useBench();
  return useQuery(wiringQuery(wiringOf(bench), { ...setup, joined: undefined }));
}
