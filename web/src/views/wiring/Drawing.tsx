import {
  useCallback,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
  type CSSProperties,
  type KeyboardEvent,
  type PointerEvent,
} from "react";
import type { Thing, WireFacts, WiringResult } from "../../api/client";
import css from "../../parts/board/Board.module.css";
import { Boards } from "../../parts/board/Boards";
import { arrows, beside, holesOf, nearest, pinsOf, type Place } from "../../parts/board/geometry";
import { ThingShape, type ThingActs } from "../../parts/board/Things";
import { WireShape, type WireActs } from "../../parts/board/Wires";
import { drag } from "../../ui/drag";
import { Icon } from "../../ui/Icon";
import { useLatest } from "../../ui/useLatest";
import type { TableEdit } from "./useTableEdit";

/** What is looked at. */
export type Picked = { wire: number } | { thing: string } | undefined;

interface Props {
  result: WiringResult;
  edit: TableEdit;
  picked: Picked;
  onPick: (p: Picked) => void;
  /** Pins that a finding points at. */
  pointed: string[];
  /** Which of the zooms. */
  zoom: number;
}

const zooms = [0.5, 0.7, 1, 1.4, 2, 2.8];

/** CSS pixels from hole to hole at which the drawing can be read at arm's length. */
const LEGIBLE = 7;

/** The size of the drawing: smaller, larger, and all of it in sight. */
export function Zoom({ zoom, onZoom }: { zoom: number; onZoom: (zoom: number) => void }) {
  return (
    <div className={css.zoom} role="group" aria-label="Size of the drawing">
      <button
        type="button"
        className="quiet"
        aria-label="Smaller"
        disabled={zoom === 0}
        onClick={() => onZoom(zoom - 1)}
      >
        −
      </button>
      <button type="button" className="quiet" title="Fit the drawing into the view" onClick={() => onZoom(2)}>
        {Math.round((zooms[zoom] ?? 1) * 100)} %
      </button>
      <button
        type="button"
        className="quiet"
        aria-label="Larger"
        disabled={zoom === zooms.length - 1}
        onClick={() => onZoom(zoom + 1)}
      >
        <Icon name="plus" size={16} />
      </button>
    </div>
  );
}

/** The zoom to begin with: all of the table where it can be read so, larger where not. */
export function legible(width: number): number {
  const room = window.innerWidth - 500; // beside the rail and the panel
  const at = zooms.findIndex((z) => z >= 1 && (room * z) / width >= LEGIBLE);
  return at < 0 ? zooms.length - 1 : at;
}

/** The table, to scale: boards, parts in their holes, and wires, all of which can be moved by pointer and by keys. */
export function Drawing({ result, edit, picked, onPick, pointed, zoom }: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const [room, setRoom] = useState({ w: 800, h: 600 }); // for the drawing, in CSS pixels
  const frame = useRef<HTMLDivElement>(null);
  useLayoutEffect(() => {
    const el = frame.current;
    if (!el) return;
    const watch = new ResizeObserver(() => setRoom({ w: el.clientWidth, h: el.clientHeight }));
    watch.observe(el);
    return () => watch.disconnect();
  }, []);
  const [cursor, setCursor] = useState<string>();
  const [start, setStart] = useState<string>(); // of a wire that is being laid
  const [lead, setLead] = useState<{ x: number; y: number }>(); // the pointer, while a wire is drawn
  const holes = useMemo(() => holesOf(result), [result]);
  const pins = useMemo(() => pinsOf(result), [result]);
  const places = useMemo(() => [...holes, ...pins], [holes, pins]);
  const at = useCallback((name: string) => places.find((p) => p.name === name), [places]);
  const taken = useMemo(() => {
    const list = new Set<string>();
    for (const t of result.things) for (const p of t.pins) if (p.hole) list.add(p.hole);
    for (const w of result.wires) for (const e of [w.fromHole || w.from, w.toHole || w.to]) list.add(e);
    return list;
  }, [result]);

  const { x, y, w, h } = result.bounds;
  const point = (e: { clientX: number; clientY: number }) => {
    const ctm = svg.current?.getScreenCTM();
    if (!ctm) return { x: 0, y: 0 };
    const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(ctm.inverse());
    return { x: p.x, y: p.y };
  };

  /** Follows the pointer in the drawing's own measure until it is let go. */
  const follow = (
    e: PointerEvent,
    move: (p: { x: number; y: number }) => void,
    done?: (p: { x: number; y: number }) => void,
  ) => drag(e, { move: (ev) => move(point(ev)), end: (ev) => done?.(point(ev)) });

  const nameOf = (wire: WireFacts, end: "from" | "to") =>
    end === "from" ? wire.fromHole || wire.from : wire.toHole || wire.to;

  const dragEnd = (wire: WireFacts, end: "from" | "to", e: PointerEvent) => {
    e.preventDefault();
    e.stopPropagation();
    onPick({ wire: wire.number });
    let now = nameOf(wire, end);
    follow(e, (p) => {
      const to = nearest(places, p.x, p.y);
      if (!to || to.name === now || taken.has(to.name)) return;
      now = to.name;
      edit.moveEnd(wire.number - 1, end, to.name);
    });
  };

  const keyEnd = (wire: WireFacts, end: "from" | "to", e: KeyboardEvent) => {
    const direction = arrows[e.key];
    if (direction) {
      e.preventDefault();
      let to: Place | undefined = at(nameOf(wire, end));
      do to = to && beside(places, to, direction);
      while (to && taken.has(to.name));
      if (to) edit.moveEnd(wire.number - 1, end, to.name);
    }
    if (e.key === "Delete" || e.key === "Backspace") {
      e.preventDefault();
      edit.removeWire(wire.number - 1);
      onPick(undefined);
    }
  };

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
      now = to.name;
      edit.movePart(placement, to.name);
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
    if (to) edit.movePart(t.placement, to.name);
  };

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
  const here = cursor === undefined ? undefined : at(cursor);
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

  const wire = picked && "wire" in picked ? result.wires.find((o) => o.number === picked.wire) : undefined;
  const thing = picked && "thing" in picked ? result.things.find((t) => t.id === picked.thing) : undefined;
  const marked = useMemo(() => {
    const list = new Set(pointed);
    if (wire) for (const p of result.nets.find((n) => n.name === wire.net)?.pins ?? []) list.add(p);
    return list;
  }, [pointed, wire, result.nets]);
  const latest = useLatest({ onPick, keyThing, dragThing, keyEnd, dragEnd });
  const thingActs = useMemo<ThingActs>(
    () => ({
      pick: (id) => latest.current.onPick({ thing: id }),
      key: (t, e) => latest.current.keyThing(t, e),
      down: (t, e) => latest.current.dragThing(t, e),
    }),
    [latest],
  );
  const wireActs = useMemo<WireActs>(
    () => ({
      pick: (number) => latest.current.onPick({ wire: number }),
      key: (w, end, e) => latest.current.keyEnd(w, end, e),
      down: (w, end, e) => latest.current.dragEnd(w, end, e),
    }),
    [latest],
  );
  const begun = start === undefined ? undefined : at(start);
  const goal = lead ?? (start && here);
  const scale = zooms[zoom] ?? 1;
  const wide = Math.min(room.w, (room.h * w) / h) * scale; // at 100 % all of it is in sight
  return (
    <div className={css.frame}>
      <div ref={frame} className={css.scroll}>
        <svg
          ref={svg}
          className={css.drawing}
          viewBox={`${x} ${y} ${w} ${h}`}
          width={wide}
          style={{ "--text": `${Math.max(1, (11 * w) / wide)}px` } as CSSProperties}
          data-laying={start}
          aria-label={`Table with ${result.boards.length} boards, ${result.things.length} parts and ${result.wires.length} wires`}
          role="group"
        >
          <g onPointerDown={drawWire}>
            <Boards boards={result.boards} rows={result.rows} />
          </g>
          {result.things.map((t) => (
            <ThingShape
              key={t.id}
              thing={t}
              picked={thing?.id === t.id}
              marked={t.pins.flatMap((p) => (marked.has(`${t.id}/${p.name}`) ? [p.name] : [])).join("\n")}
              acts={thingActs}
            />
          ))}
          {result.wires.map((o) => (
            <WireShape
              key={o.number}
              wire={o}
              picked={o.number === wire?.number}
              faded={wire !== undefined && o.net !== wire.net && o.number !== wire.number}
              acts={wireActs}
            />
          ))}
          {begun && goal && <path className={css.laying} d={`M${begun.x} ${begun.y}L${goal.x} ${goal.y}`} />}
          <g
            className={css.cursor}
            role="button"
            tabIndex={0}
            aria-label={`Hole ${cursor ?? "none"}${cursor !== undefined && taken.has(cursor) ? ", taken" : ""}${start ? `; a wire begins at ${start}, Enter ends it` : "; arrow keys move on, Enter begins a wire"}`}
            onKeyDown={keyCursor}
            onFocus={() => setCursor((c) => c ?? holes[0]?.name)}
          >
            <circle cx={here?.x ?? x + 1} cy={here?.y ?? y + 1} r="0.62" />
          </g>
        </svg>
      </div>
    </div>
  );
}
