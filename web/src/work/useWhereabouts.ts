import { useContext, useEffect, useMemo, useSyncExternalStore } from "react";
import { beHere, type Seen } from "../api/room";
import { HereContext, useBench } from "./BenchContext";
import { pageName } from "./pageName";
import type { Place } from "./typing/rows";

/** How long somebody must have been somewhere before it is told, in milliseconds. */
const REST_MS = 250;

let caret: Place | undefined;
const changed = new Set<() => void>();

/** Tells where the caret of this page is; undefined where it is nowhere. */
export function tellCaret(to: Place | undefined): void {
  caret = to;
  for (const f of changed) f();
}

const useCaret = () =>
  useSyncExternalStore(
    (f) => {
      changed.add(f);
      return () => changed.delete(f);
    },
    () => caret,
  );

/** Tells the others where this page is, once it rests there and anybody else is here. */
export function useTellingWhere(view: string): void {
  const { id, module, screen } = useBench();
  const here = useContext(HereContext);
  const others = here.length > 1;
  const at = useCaret();
  const [row, col] = [at?.row, at?.col];
  useEffect(() => {
    if (!others) return;
    const timer = window.setTimeout(() => {
      beHere(id, pageName(), { view, module: module.id, screen: screen.id, row, col }).catch(() => undefined); // told with the next change
    }, REST_MS);
    return () => window.clearTimeout(timer);
  }, [id, others, view, module.id, screen.id, row, col]);
}

/** Who else has the bench open. */
export function useOthers(): Seen[] {
  const here = useContext(HereContext);
  return useMemo(() => here.filter((s) => s.page !== pageName()), [here]);
}

/** Where others write on the screen that is composed here. */
export function useOtherCarets(): (Seen & { row: number; col: number })[] {
  const { module, screen } = useBench();
  const others = useOthers();
  return others.filter(
    (s): s is Seen & { row: number; col: number } =>
      s.module === module.id && s.screen === screen.id && s.row !== undefined && s.col !== undefined,
  );
}
