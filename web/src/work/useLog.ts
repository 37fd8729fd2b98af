import { useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { addEntry, logKey, type Entry } from "../api/faults";
import { useBench } from "./BenchContext";

/** An entry without what is added to each. */
export type Noted = Omit<Entry, "at" | "module"> & { module?: string };

/** The present time as the log keeps it: to the second, in UTC. */
export const now = (): string => new Date().toISOString().slice(0, 19) + "Z";

/** Writes into the log of the bench, of the selected module unless another is named; settles once it is stored. */
export function useNote(): (e: Noted) => Promise<void> {
  const { id, module } = useBench();
  const queries = useQueryClient();
  return useCallback(
    async (e: Noted) => {
      await addEntry(id, { module: module.id, ...e, at: now() });
      await queries.invalidateQueries({ queryKey: logKey }); // causes count for all benches
    },
    [id, module.id, queries],
  );
}
