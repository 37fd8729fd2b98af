import { useCallback, useMemo, useState, type KeyboardEvent, type PointerEvent, type RefObject } from "react";
import type { Thing, WireFacts, WiringResult } from "../../api/client";
import { beside, holesOf, nearest, pinsOf, type Place } from "../../parts/board/geometry";
import { arrows, type Direction } from "../../ui/arrows";
import { drag } from "../../ui/drag";
import type { Picked } from "./Drawing";
import type { TableEdit } from "../../work/useTableEdit";

interface Point {
  x: number;
  y: number;
}

type Table = ReturnType<typeof useTablePlaces>;
type Pointer = ReturnType<typeof usePointer>;

/** Where wires and parts can go, and where something is already. */
export function useTablePlaces(result: WiringResult) {
  const { boards, rows, things } = result;
  const holes = useMemo(() => holesOf({ boards, rows }), [boards, rows]);
  const pins = useMemo(() => pinsOf({ things }), [things]);
  const places = useMemo(() => [...holes, ...pins], [holes, pins]);
  const at = useCallback((name: string) => places.find((p) => p.name === name), [places]);
  const taken = useMemo(() => {
    const list = new Set<string>();
    for (const t of result.things) for (const p of t.pins) if (p.hole) list.add(p.hole);
    for (const w of result.wires) for (const e of [w.fromHole || w.from, w.toHole || w.to]) list.add(e);
    return list;
  }, [result]);

  return { holes, places, at, taken };
}

/** The pointer in the drawing's own measure. */
export function usePointer(svg: RefObject<SVGSVGElement | null>) {
  const point = (e: { clientX: number; clientY: number }) => {
    const ctm = svg.current?.getScreenCTM();
    if (!ctm) return { x: 0, y: 0 };
    const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(ctm.inverse());
    return { x: p.x, y: p.y };
  };

  /** Follows the pointer in the drawing's own measure until it is let go. */
  const follow = (e: PointerEvent, move: (p: Point) => void, done?: (p: Point) => void) =>
    drag(e, { move: (ev) => move(point(ev)), end: (ev) => done?.(point(ev)) });

  return { point, follow };
}

/** Where the next step may lead that follows one in a direction: on, or to a side. */
const onward = (step: (d: Direction) => Place | undefined, [dx, dy]: Direction): string[] =>
  (
    [
      [dx, dy],
      [dy, dx],
      [-dy, -dx],
    ] satisfies Direction[]
  ).flatMap((d) => step(d)?.name ?? []);

/** The direction in which one place lies from another, more or less. */
const towards = (from: Place | undefined, to: Place): Direction => {
  const [x, y] = [to.x - (from?.x ?? to.x), to.y - (from?.y ?? to.y)];
  return Math.abs(x) >= Math.abs(y) ? [Math.sign(x) || 1, 0] : [0, Math.sign(y)];
};

/** What pointer and keys do with the ends of wires. */
export function wireHands(
  { places, at, taken }: Table,
  { follow }: Pointer,
  edit: TableEdit,
  onPick: (p: Picked) => void,
) {
  const nameOf = (wire: WireFacts, end: "from" | "to") =>
    end === "from" ? wire.fromHole || wire.from : wire.toHole || wire.to;

  const free = (from: Place | undefined, direction: Direction) => {
    let to = from;
    do to = to && beside(places, to, direction);
    while (to && taken.has(to.name));
    return to;
  };

  const dragEnd = (wire: WireFacts, end: "from" | "to", e: PointerEvent) => {
    e.preventDefault();
    e.stopPropagation();
    onPick({ wire: wire.number });
    let now = nameOf(wire, end);
    follow(e, (p) => {
      const to = nearest(places, p.x, p.y);
      if (!to || to.name === now || taken.has(to.name)) return;
      const from = at(now);
      now = to.name;
      edit.moveEnd(wire.number - 1, end, to.name, () => onward((d) => free(to, d), towards(from, to)));
    });
  };

  const keyEnd = (wire: WireFacts, end: "from" | "to", e: KeyboardEvent) => {
    const direction = arrows[e.key];
    if (direction) {
      e.preventDefault();
      const to = free(at(nameOf(wire, end)), direction);
      if (to) edit.moveEnd(wire.number - 1, end, to.name, () => onward((d) => free(to, d), direction));
    }
    if (e.key === "Delete" || e.key === "Backspace") {
      e.preventDefault();
      edit.removeWire(wire.number - 1);
      onPick(undefined);
    }
  };

  return { dragEnd, keyEnd };
}

/** What pointer and keys do with parts. */
export function partHands({ holes, at }: Table, { point, follow }: Pointer, edit: TableEdit) {
  const dragThing = (t: Thing, e: PointerEvent) => {
    const first = t.pins[0];
    if (t.placement === undefined || !first?.hole) return;
    e.preventDefault();
    const from = point(e);
    const off = { x: first.x - from.x, y: first.y - from.y };
    let now = first.hole;
    const { placement } = t;
    follow(e, (p) => {
      const to = nearest(holes, p.x + off.x, p.y + off.y);
      if (!to || to.name === now) return;
      const before = at(now);
      now = to.name;
      edit.movePart(placement, to.name, () => onward((d) => beside(holes, to, d), towards(before, to)));
    });
  };

  const keyThing = (t: Thing, e: KeyboardEvent) => {
    const direction = arrows[e.key];
    const first = t.pins[0];
    if (e.key === "r" && t.placement !== undefined) edit.turnPart(t.placement);
    if (!direction) return;
    e.preventDefault();
    if (t.placement === undefined || !first?.hole) return;
    const from = at(first.hole);
    const to = from && beside(holes, from, direction);
    if (to) edit.movePart(t.placement, to.name, () => onward((d) => beside(holes, to, d), direction));
  };

  return { dragThing, keyThing };
}

/** How a wire is laid: by drawing from one place to another, or with Enter at both. */
export function useLaying(
  { holes, places, at, taken }: Table,
  { point, follow }: Pointer,
  edit: TableEdit,
  onPick: (p: Picked) => void,
) {
  const [cursor, setCursor] = useState<string>();
  const [start, setStart] = useState<string>(); // of a wire that is being laid
  const [lead, setLead] = useState<Point>(); // the pointer, while a wire is drawn
  const here = cursor === undefined ? undefined : at(cursor);
  /** A wire is laid by drawing from one place to another, or with Enter at both. */
  const lay = (to: string) => {
    if (start && start !== to && !taken.has(to)) edit.addWire(start, to, undefined);
    setStart(undefined);
  };
  const drawWire = (e: PointerEvent) => {
    const from = nearest(places, point(e).x, point(e).y, 0.6);
    setCursor(from?.name);
    if (!from || taken.has(from.name)) return onPick(undefined);
    setStart(from.name);
    follow(
      e,
      (p) => setLead(p),
      (p) => {
        setLead(undefined);
        setStart(undefined);
        const to = nearest(places, p.x, p.y);
        if (to && to.name !== from.name && !taken.has(to.name)) edit.addWire(from.name, to.name, undefined);
      },
    );
  };
  const keyCursor = (e: KeyboardEvent) => {
    const direction = arrows[e.key];
    if (direction) {
      e.preventDefault();
      const next = here ? beside(places, here, direction) : places[0];
      if (next) setCursor(next.name);
    }
    if (e.key === "Enter" && cursor !== undefined) {
      if (start) lay(cursor);
      else if (!taken.has(cursor)) setStart(cursor);
    }
    if (e.key === "Escape") {
      setStart(undefined);
      e.stopPropagation();
    }
  };

  return {
    cursor,
    here,
    start,
    begun: start === undefined ? undefined : at(start),
    goal: lead ?? (start && here),
    drawWire,
    keyCursor,
    onFocus: () => setCursor((c) => c ?? holes[0]?.name),
  };
}
