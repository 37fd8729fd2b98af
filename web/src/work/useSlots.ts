import { useQuery } from "@tanstack/react-query";
import { romQuery } from "../api/queries";
import { useBench } from "./BenchContext";

/** The slots that glyphs of the selected module may take, each with the code that shows it; none until they are known. */
export function useSlots() {
  const { module } = useBench();
  return useQuery(romQuery(module.display)).data?.slots ?? [];
}
