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

/** One a bench, for as long as the page is open, so that it is there again after another view. */
const held = new Map<number, HeldRecording>();
const watchers = new Set<() => void>();

/** Holds a recording for a bench, or none any more. */
export function holdRecording(bench: number, to: HeldRecording | undefined): void {
  if (to) held.set(bench, to);
  else held.delete(bench);
  watchers.forEach((tell) => tell());
}

const watch = (changed: () => void) => {
  watchers.add(changed);
  return () => watchers.delete(changed);
};

/** The recording that is held for a bench. */
export const useHeldRecording = (bench: number): HeldRecording | undefined =>
  useSyncExternalStore(watch, () => held.get(bench));
