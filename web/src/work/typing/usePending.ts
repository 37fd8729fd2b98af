import { useCallback, useEffect, useRef } from "react";
import { flushSync } from "react-dom";

/** A change waits this long for its run at most, in milliseconds: less than two frames. */
const PATIENCE_MS = 24;

/**
 * Holds a change of the screen back until its run is there, so that caret and
 * glass are drawn in one frame, not in two; whatever the maker does next carries
 * it out first.
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

  return useCallback((change: () => void, ready: Promise<unknown>) => {
    const carryOut = () => {
      if (pending.current !== carryOut) return;
      pending.current = null;
      window.clearTimeout(timer);
      flushSync(change); // what comes next must find it drawn
    };
    const timer = window.setTimeout(carryOut, PATIENCE_MS);
    pending.current?.();
    pending.current = carryOut;
    void ready.then(carryOut);
  }, []);
}
