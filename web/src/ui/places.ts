import { useSyncExternalStore } from "react";

/** From what rows and columns are counted: 1, as people do, or 0, as most programs do. */
export type Base = 0 | 1;

const key = "slatebell-count-from";
const listeners = new Set<() => void>();

const read = (): Base => (localStorage.getItem(key) === "0" ? 0 : 1);

export function countFrom(base: Base) {
  localStorage.setItem(key, String(base));
  for (const l of listeners) l();
}

/** From what places are counted now. */
export const useBase = (): Base =>
  useSyncExternalStore((l) => {
    listeners.add(l);
    return () => listeners.delete(l);
  }, read);

/** Rows and columns in a text of the program, which counts from 1, as they are counted here. */
export function recounted(text: string, base: Base): string {
  if (base === 1) return text;
  const less = (n: string) => String(Number(n) - 1);
  return text
    .replace(/\b((?:row|column)s? )(\d+)/gi, (_, word: string, n: string) => word + less(n))
    .replace(/\b(columns \d+ to )(\d+)/gi, (_, words: string, n: string) => words + less(n));
}
