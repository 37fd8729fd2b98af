import { useSyncExternalStore } from "react";

/** Where typing goes on behind the last cell of a row: beyond the glass, or in the row that the module writes next. */
export type RowEnd = "beyond" | "module";

const key = "slatebell-row-end";
const listeners = new Set<() => void>();

const read = (): RowEnd => (localStorage.getItem(key) === "module" ? "module" : "beyond");

export function setRowEnd(to: RowEnd) {
  localStorage.setItem(key, to);
  for (const l of listeners) l();
}

/** Where typing goes on now. */
export const useRowEnd = (): RowEnd =>
  useSyncExternalStore((l) => {
    listeners.add(l);
    return () => listeners.delete(l);
  }, read);
