import { useSyncExternalStore } from "react";

/**
 * A choice that this browser keeps. Whatever shows it is drawn anew when it changes, in every tab.
 * @param key where it is kept
 * @param read what was kept, or what holds where nothing was
 */
export function setting<T extends string | number>(key: string, read: (kept: string | null) => T) {
  const get = (): T => read(localStorage.getItem(key));
  const watch = (changed: () => void) => {
    window.addEventListener("storage", changed);
    return () => window.removeEventListener("storage", changed);
  };
  return {
    /** What holds now, where nothing is drawn anew when it changes. */
    get,
    set: (to: T) => {
      localStorage.setItem(key, String(to));
      window.dispatchEvent(new StorageEvent("storage", { key })); // other tabs are told by the browser
    },
    useValue: (): T => useSyncExternalStore(watch, get),
  };
}
