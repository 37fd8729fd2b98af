import { useQueryClient } from "@tanstack/react-query";
import { useMemo, type RefObject } from "react";
import { flushSync } from "react-dom";
import { client, unwrap, type Bench, type Glass, type Wiring, type WiringResult } from "../api/client";
import { joinedUp, noExtras, runQuery } from "../api/queries";
import { useLatest } from "../ui/useLatest";
import { ahead } from "./ahead";
import { useBench, type BenchWork } from "./BenchContext";
import { useExtras } from "./ExtrasContext";
import { useGlass } from "./GlassContext";
import { useMe } from "./useMe";
import { reason } from "./reason";
import { laid, tableQuery, wiringOf } from "./setup";
import { useLikely, type Likely } from "./useLikely";
import { usePending } from "./usePending";

/**
 * Changes of what lies on the table; what is only proposed is taken over by the first of them. The page is drawn with one once it is
 * there what it comes to. It stays the same while the table changes, so that what does nothing but change it is not drawn again.
 * @param show shows what a change comes to, with its glass, in the frame before the page is drawn with it
 */
export function useTableEdit(result: WiringResult | undefined, show?: (answer: WiringResult) => void) {
  const { bench, setup, change, changeModule } = useBench();
  const { extras } = useExtras();
  const { showRef } = useGlass();
  const watches = useMe().role === "watches"; // what a watcher does is not stored, and not shown
  const queries = useQueryClient();
  const hold = usePending();
  const expect = useLikely();
  const early = (answer: WiringResult, glass: Glass | undefined) => {
    if (!show || watches) return;
    flushSync(() => show(answer));
    if (glass && extras === noExtras) showRef.current(glass);
  };
  const latest = useLatest({ bench, setup, result, early });
  return useMemo(() => {
    const coming = async (next: Bench) => {
      const { setup } = latest.current;
      const answer = await ahead(queries, tableQuery(next, setup));
      if (!answer) return undefined;
      const run = queries.getQueryData(runQuery(joinedUp(setup, answer), noExtras).queryKey);
      return { answer, glass: run?.glass };
    };
    const held: Held = (next, tag, likely) => {
      expect(likely);
      hold(
        () => change(next, tag),
        coming(next(latest.current.bench)),
        (what) => what && latest.current.early(what.answer, what.glass),
      );
    };
    return editing(latest, held, change, changeModule);
  }, [latest, queries, hold, expect, change, changeModule]);
}

type Work = Pick<BenchWork, "change" | "changeModule">;

/** Changes the bench once it is there what that comes to; likely is what may be done after it. */
type Held = (next: (b: Bench) => Bench, tag: string, likely?: Likely) => void;

/** What becomes of what lies on the table. */
type TableChange = (w: Wiring) => Wiring;

function editing(
  latest: RefObject<{ bench: Bench; result: WiringResult | undefined }>,
  held: Held,
  change: Work["change"],
  changeModule: Work["changeModule"],
) {
  const edit = (next: TableChange, tag = "", likely?: () => TableChange[]) => {
    const proposed = latest.current.result?.plan?.[0]?.value as Wiring | undefined;
    const of = (next: TableChange) => (b: Bench) => ({
      ...b,
      wiring: next(laid(b) ? (b.wiring ?? {}) : (proposed ?? b.wiring ?? {})),
    });
    held(of(next), tag, likely && (() => likely().map(of)));
  };
  const wires = (next: (list: NonNullable<Wiring["wires"]>) => NonNullable<Wiring["wires"]>, tag = "") =>
    edit((w) => ({ ...w, wires: next(w.wires ?? []) }), tag);
  const endAt =
    (index: number, end: "from" | "to", to: string): TableChange =>
    (w) => ({ ...w, wires: w.wires?.map((o, i) => (i === index ? { ...o, [end]: to, lengthMM: undefined } : o)) });
  const partAt =
    (index: number, at: string): TableChange =>
    (w) => {
      const [board = "", hole = ""] = at.split("/");
      return { ...w, placements: w.placements?.map((p, i) => (i === index ? { ...p, board, hole } : p)) };
    };
  return {
    edit,
    /** The bench as it stands. */
    now: () => latest.current.bench,
    /** Lays all as it is proposed. */
    take: () => edit((w) => w),
    /** Moves a wire's end to a place; likely is where it may go from there. */
    moveEnd: (index: number, end: "from" | "to", to: string, likely: () => string[]) =>
      edit(endAt(index, end, to), `${end} ${index}`, () => likely().map((next) => endAt(index, end, next))),
    addWire: (from: string, to: string, colour: string | undefined) => wires((list) => [...list, { from, to, colour }]),
    removeWire: (index: number) => wires((list) => list.filter((_, i) => i !== index)),
    paint: (index: number, colour: string) => wires((list) => list.map((w, i) => (i === index ? { ...w, colour } : w))),
    /** Gives data lines a colour each, or one for all; a wire's own colour of before makes way. */
    paintEach: (each: boolean) => {
      const { result } = latest.current;
      const data = new Set(result?.nets.filter((n) => n.line).map((n) => n.name));
      const mine = new Set(result?.wires.filter((w) => data.has(w.net)).map((w) => w.number - 1));
      edit((w) => ({
        ...w,
        eachLine: each || undefined,
        wires: w.wires?.map((o, i) => (mine.has(i) ? { ...o, colour: undefined } : o)),
      }));
    },
    /** Moves a part's first pin to a hole; likely is where it may go from there. */
    movePart: (index: number, hole: string, likely: () => string[]) =>
      edit(partAt(index, hole), `part ${index}`, () => likely().map((next) => partAt(index, next))),
    turnPart: (index: number) =>
      edit((w) => ({
        ...w,
        placements: (w.placements ?? []).map((p, i) => {
          const turn = (((p.turn ?? 0) + 90) % 360) as 0 | 90 | 180 | 270;
          return i === index ? { ...p, turn: turn || undefined } : p;
        }),
      })),
    tick: (id: string, done: boolean) =>
      edit((w) => ({
        ...w,
        done: done ? [...(w.done ?? []).filter((d) => d !== id), id] : (w.done ?? []).filter((d) => d !== id),
      })),
    /** Lays all afresh; returns why it could not be. */
    planAfresh: async (from: Bench = latest.current.bench): Promise<string | undefined> => {
      try {
        const { patch } = unwrap(await client.POST("/api/wiring/plan", { body: wiringOf(from) }));
        const wiring = patch[0]?.value as Wiring;
        change((b) => ({ ...b, wiring }));
        return undefined;
      } catch (e) {
        return reason(e);
      }
    },
    /** Turns a module's contrast knob: 0 with VO at ground, 1 with VO at VDD. */
    turnKnob: (module: number, turn: number) =>
      change(
        (b) => ({
          ...b,
          modules: b.modules.map((m, i) => (i === module ? { ...m, fitting: { ...m.fitting, turn } } : m)),
        }),
        `knob ${module}`,
      ),
    changeModule,
  };
}

export type TableEdit = ReturnType<typeof useTableEdit>;
