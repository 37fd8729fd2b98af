import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useSyncExternalStore } from "react";
import { ApiError } from "../api/client";
import { addEntry, logKey, type Entry } from "../api/faults";
import { useBench } from "./BenchContext";
import { keepNote, notesIn, notesText, sendLater, type KeptNote } from "./notesLater";

/** An entry without what is added to each. */
export type Noted = Omit<Entry, "at" | "module"> & { module?: string };

/** The present time as the log keeps it: to the second, in UTC. */
export const now = (): string => new Date().toISOString().slice(0, 19) + "Z";

/**
 * Writes into the log of the bench, of the selected module unless another is named; settles once it is stored, or kept in
 * this browser until the program answers.
 */
export function useNote(): (e: Noted) => Promise<void> {
  const { id, module } = useBench();
  const queries = useQueryClient();
  return useCallback(
    async (e: Noted) => {
      const entry = { module: module.id, ...e, at: now() };
      try {
        await addEntry(id, entry);
      } catch (why) {
        if (why instanceof ApiError) throw why;
        keepNote(id, entry);
      }
      await queries.invalidateQueries({ queryKey: logKey }); // causes count for all benches
    },
    [id, module.id, queries],
  );
}

/** The notes of a bench that wait in this browser; they are sent once the program answers. */
export function useKeptNotes(id: number): KeptNote[] {
  const text = useSyncExternalStore(
    (changed) => {
      window.addEventListener("storage", changed);
      return () => window.removeEventListener("storage", changed);
    },
    () => notesText(id),
  );
  return useMemo(() => notesIn(text), [text]);
}

/** Sends the notes that wait, as long as the bench is open. */
export function useSendingNotes(id: number): void {
  const queries = useQueryClient();
  useEffect(() => sendLater(id, () => void queries.invalidateQueries({ queryKey: logKey })), [id, queries]);
}
