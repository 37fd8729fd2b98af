import { useSyncExternalStore } from "react";
import type { Held } from "../api/recordings";

/** A recording that is looked at, and what somebody says of it. */
export interface HeldRecording {
  recording: Held;
  /** Channels by the lines that they are said to carry. */
  lines: Record<string, number>;
  /** Size of the module, where it is not the bench's. */
  size: string;
  /** A limit is broken in it; undefined before it was read. */
  open?: boolean;
}

/** One a bench, for as long as the tab is open, so that it is there again after another view, or when the page is loaded anew. */
const held = new Map<number, HeldRecording | undefined>();
const watchers = new Set<() => void>();
const placeOf = (bench: number) => `slatebell-recording-${bench}`;

/** Holds a recording for a bench, or none any more. */
export function holdRecording(bench: number, to: HeldRecording | undefined): void {
  held.set(bench, to);
  if (to) sessionStorage.setItem(placeOf(bench), JSON.stringify(to));
  else sessionStorage.removeItem(placeOf(bench));
  watchers.forEach((tell) => tell());
}

function heldFor(bench: number): HeldRecording | undefined {
  if (!held.has(bench)) {
    const kept = sessionStorage.getItem(placeOf(bench));
    held.set(bench, kept === null ? undefined : (JSON.parse(kept) as HeldRecording));
  }
  return held.get(bench);
}

const watch = (changed: () => void) => {
  watchers.add(changed);
  return () => watchers.delete(changed);
};

/** The recording that is held for a bench. */
export const useHeldRecording = (bench: number): HeldRecording | undefined =>
  useSyncExternalStore(watch, () => heldFor(bench));
