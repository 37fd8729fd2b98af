import { useEffect, useState } from "react";

/** A value that changes with every key is taken once it rests for this long, in milliseconds. */
const REST_MS = 200;

/**
 * A value as it was when it last rested: what is drawn from it does not slow the keys down.
 * @param at what must never be old: where it changes, the value is taken at once
 */
export function useRested<T>(value: T, at: string): T {
  const [kept, setKept] = useState({ value, at });
  useEffect(() => {
    const timer = window.setTimeout(() => setKept({ value, at }), REST_MS);
    return () => window.clearTimeout(timer);
  }, [value, at]);
  return kept.at === at ? kept.value : value;
}
