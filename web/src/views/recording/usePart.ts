import { useEffect, useRef, useState } from "react";
import { instantOf, partOf, type Instant, type Part } from "../../api/recordings";
import type { Window } from "./useWindow";

/** A part as it was asked for. */
export interface Drawn {
  from: number;
  to: number;
  part: Part;
}

/** Asks for the newest wish once the one before is answered; what none wishes any more is never asked for. */
function useNewest<W, T>(ask: (wish: W) => Promise<T>, of: string) {
  const [got, setGot] = useState<{ of: string; answer: T }>();
  const state = useRef<{ busy: boolean; wish?: W; of: string }>({ busy: false, of });
  const want = (wish: W) => {
    const s = state.current;
    s.of = of;
    s.wish = wish;
    if (s.busy) return;
    const next = async (): Promise<void> => {
      const now = s.wish;
      const whose = s.of;
      s.wish = undefined;
      if (now === undefined) {
        s.busy = false;
        return;
      }
      s.busy = true;
      const answer = await ask(now).catch(() => undefined); // what was let go of meanwhile is asked for anew
      if (answer !== undefined) setGot({ of: whose, answer });
      return next();
    };
    void next();
  };
  return { got: got?.of === of ? got.answer : undefined, want };
}

/** How much is asked for beyond what is in sight, on either side, in windows. */
const BEYOND = 1;

/** What is recorded in a window and beside it, in the detail that its width shows. */
export function usePart(id: string, w: Window, width: number, whole: number): Drawn | undefined {
  const { got, want } = useNewest(async ({ from, to, columns }: { from: number; to: number; columns: number }) => {
    const part = await partOf(id, from, to, columns);
    return { from, to, part, per: (to - from) / columns };
  }, id);
  useEffect(() => {
    const span = w.to - w.from;
    const from = Math.max(0, Math.floor(w.from - BEYOND * span));
    const to = Math.min(Math.ceil(whole), Math.ceil(w.to + BEYOND * span)) + 1;
    const per = span / Math.max(width, 1);
    const fits =
      got && got.from <= w.from && got.to >= w.to && (got.per <= per * 1.5 || sparse(got.part)) && got.per >= per / 4;
    if (!fits) want({ from, to, columns: Math.min(4000, Math.max(1, Math.ceil((to - from) / per))) });
  }, [w.from, w.to, width, whole, id, got]); // eslint-disable-line react-hooks/exhaustive-deps
  return got;
}

/** Whether each change is given, so that no nearer look shows more. */
const sparse = (p: Part) => !p.many && p.channels.every((c) => c.busy.length === 0);

/** The module at the time that is looked at. */
export function useInstant(id: string, at: number, enabled: boolean): Instant | undefined {
  const { got, want } = useNewest((t: number) => instantOf(id, t), id);
  useEffect(() => {
    if (enabled) want(Math.round(at));
  }, [at, id, enabled]); // eslint-disable-line react-hooks/exhaustive-deps
  return got;
}
