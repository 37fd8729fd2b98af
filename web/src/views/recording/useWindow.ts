import { useCallback, useMemo, useState } from "react";

/** The part of a recording that is in sight, the time that is looked at, and two marks; all in ns since it began. */
export interface Window {
  from: number;
  to: number;
  at: number;
  a?: number;
  b?: number;
}

/** The shortest time that fills the view, ns. */
const SHORTEST = 40;

/** From how near something is looked at, ns at most. */
const NEAR = 200_000;

/** Which part of it a window shows before the first change. */
const BEFORE = 0.03;

/** How a window is moved over a recording in which things happen from a time to another; it begins with all of that. */
export function useWindow(begins: number, ends: number) {
  const whole = Math.max(ends, SHORTEST);
  const [w, setW] = useState<Window>({
    from: Math.max(0, Math.min(begins - BEFORE * (whole - begins), whole - SHORTEST)),
    to: whole,
    at: ends, // the glass shows the end
  });
  const bounded = useCallback(
    (from: number, to: number) => {
      const span = Math.min(Math.max(to - from, SHORTEST), whole);
      const middle = (from + to) / 2;
      const start = Math.min(Math.max(middle - span / 2, 0), whole - span);
      return { from: start, to: start + span };
    },
    [whole],
  );
  const acts = useMemo(
    () => ({
      /** Looks at a time, and brings it into sight. */
      look: (at: number) =>
        setW((w) => {
          const t = Math.min(Math.max(Math.round(at), 0), whole);
          const span = w.to - w.from;
          const seen = t >= w.from + span * 0.02 && t <= w.to - span * 0.02;
          return { ...w, at: t, ...(seen ? {} : bounded(t - span / 2, t + span / 2)) };
        }),
      /** Looks at a time from so near that what happens there is seen. */
      near: (at: number) =>
        setW((w) => {
          const half = Math.min(NEAR, w.to - w.from) / 2;
          return { ...w, at: Math.round(at), ...bounded(at - half, at + half) };
        }),
      zoom: (factor: number, round?: number) =>
        setW((w) => {
          const pivot = round ?? Math.min(Math.max(w.at, w.from), w.to);
          const left = (pivot - w.from) * factor;
          const right = (w.to - pivot) * factor;
          const span = left + right;
          if (span < SHORTEST || (w.to - w.from === whole && factor > 1)) return w;
          return { ...w, ...bounded(pivot - left, pivot + right) };
        }),
      pan: (ns: number) => setW((w) => ({ ...w, ...bounded(w.from + ns, w.to + ns) })),
      show: (from: number, to: number) => setW((w) => ({ ...w, ...bounded(from, to) })),
      all: () => setW((w) => ({ ...w, from: 0, to: whole })),
      mark: (which: "a" | "b", at?: number) =>
        setW((w) => ({ ...w, [which]: at === undefined ? w.at : Math.round(at) })),
      unmark: () => setW((w) => ({ ...w, a: undefined, b: undefined })),
    }),
    [bounded, whole],
  );
  return { w, whole, ...acts };
}

export type Moved = ReturnType<typeof useWindow>;
