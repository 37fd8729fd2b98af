import { useCallback, useEffect, useRef } from "react";
import { flushSync } from "react-dom";

/** A change waits this long for what it comes to at most, in milliseconds: less than two frames. */
const PATIENCE_MS = 24;

/** A page that is not in sight has no frames: it is drawn after so many milliseconds. */
const FRAMELESS_MS = 100;

/**
 * Holds a change back until it is there what it comes to, so that the page is drawn once with both. With first, what is to be seen of
 * it before all else (caret and glass) is shown in one frame, and the rest of the page is drawn after that frame. Whatever the maker
 * does next carries the change out first.
 */
export function usePending() {
  const pending = useRef<(() => void) | null>(null);

  useEffect(() => {
    const flush = () => pending.current?.();
    const events = ["keydown", "beforeinput", "input", "paste", "pointerdown", "pagehide"];
    for (const e of events) window.addEventListener(e, flush, true);
    return () => {
      flush();
      for (const e of events) window.removeEventListener(e, flush, true);
    };
  }, []);

  return useCallback(<T>(change: () => void, ready: Promise<T>, first?: (answer: T) => void) => {
    const carryOut = () => {
      if (pending.current !== carryOut) return;
      pending.current = null;
      window.clearTimeout(timer);
      flushSync(change); // what comes next must find it drawn
    };
    let timer = window.setTimeout(carryOut, PATIENCE_MS);
    pending.current?.();
    pending.current = carryOut;
    void ready.then((answer) => {
      if (pending.current !== carryOut) return;
      if (!first) {
        carryOut();
        return;
      }
      window.clearTimeout(timer);
      timer = window.setTimeout(carryOut, FRAMELESS_MS);
      first(answer);
      requestAnimationFrame(() => window.setTimeout(carryOut));
    });
  }, []);
}
