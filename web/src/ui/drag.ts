import type { PointerEvent } from "react";

interface Steps {
  /** The pointer moved, wherever it is by now. */
  move?: (e: globalThis.PointerEvent) => void;
  /** It was let go. */
  end?: (e: globalThis.PointerEvent) => void;
  /** It was taken away, as by a second finger; what end does where nothing is said. */
  cancel?: (e: globalThis.PointerEvent) => void;
}

/** Follows a pointer that went down on an element until it is let go. All that is dragged is dragged by this. */
export function drag(e: PointerEvent, { move, end, cancel = end }: Steps): void {
  const target = e.currentTarget;
  const { pointerId } = e;
  const until = new AbortController();
  const on = (type: "pointermove" | "pointerup" | "pointercancel", then: Steps["move"], last: boolean) =>
    target.addEventListener(
      type,
      (ev) => {
        const pointer = ev as globalThis.PointerEvent;
        if (pointer.pointerId !== pointerId) return;
        if (last) until.abort();
        then?.(pointer);
      },
      { signal: until.signal },
    );
  target.setPointerCapture(pointerId);
  on("pointermove", move, false);
  on("pointerup", end, true);
  on("pointercancel", cancel, true);
}
