import { ApiError } from "../api/client";
import { base, placed } from "../ui/places";

/** What is said where no answer came at all. */
export const UNREACHABLE = "the program cannot be reached; is it still running?";

/** What an attempt failed with, in words, its places counted as they are here. */
export function reason(e: unknown): string {
  if (e instanceof ApiError) return e.said.map((s) => s.at + placed(s.text, s.places, base())).join("; ");
  return e instanceof TypeError ? UNREACHABLE : e instanceof Error ? e.message : String(e); // fetch throws a TypeError
}

/** What failed as a sentence of its own. */
export const sentence = (e: unknown): string => {
  const text = reason(e);
  return text.charAt(0).toUpperCase() + text.slice(1);
};
