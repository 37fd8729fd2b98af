import { useSyncExternalStore } from "react";

/** Whether a media query holds, as that changes. */
export function useMedia(query: string): boolean {
  const list = window.matchMedia(query);
  return useSyncExternalStore(
    (changed) => {
      list.addEventListener("change", changed);
      return () => list.removeEventListener("change", changed);
    },
    () => list.matches,
  );
}

/** Whether the page is in a hand: narrower than the desk's views can be, as a telephone or an upright tablet is; paper is none. */
export const useHand = (): boolean => useMedia("screen and (max-width: 899px)");
