import { useLayoutEffect, useRef, type RefObject } from "react";

/** A reference to a value as it was drawn last, for what outlives a drawing: listeners, queues, timers. */
export function useLatest<T>(value: T): RefObject<T> {
  const ref = useRef(value);
  useLayoutEffect(() => {
    ref.current = value;
  }, [value]);
  return ref;
}
