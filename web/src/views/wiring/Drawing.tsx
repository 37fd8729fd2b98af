import { useLayoutEffect, useMemo, useRef, useState, type CSSProperties } from "react";
import type { WiringResult } from "../../api/client";
import css from "../../parts/board/Board.module.css";
import { Boards } from "../../parts/board/Boards";
import { ThingShape, type ThingActs } from "../../parts/board/Things";
import { WireShape, type WireActs } from "../../parts/board/Wires";
import { Icon } from "../../ui/Icon";
import { useLatest } from "../../ui/useLatest";
import { Quiet } from "../../ui/Quiet";
import { partHands, useLaying, usePointer, useTablePlaces, wireHands } from "./hands";
import type { TableEdit } from "../../work/useTableEdit";

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
      <Quiet aria-label="Smaller" disabled={zoom === 0} onClick={() => onZoom(zoom - 1)}>
        −
      </Quiet>
      <Quiet title="Fit the drawing into the view" onClick={() => onZoom(2)}>
        {Math.round((zooms[zoom] ?? 1) * 100)} %
      </Quiet>
      <Quiet aria-label="Larger" disabled={zoom === zooms.length - 1} onClick={() => onZoom(zoom + 1)}>
        <Icon name="plus" size={16} />
      </Quiet>
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
  const { x, y, w, h } = result.bounds;
  const table = useTablePlaces(result);
  const { taken } = table;
  const pointer = usePointer(svg);
  const { dragEnd, keyEnd } = wireHands(table, pointer, edit, onPick);
  const { dragThing, keyThing } = partHands(table, pointer, edit);
  const { cursor, here, start, begun, goal, drawWire, keyCursor, onFocus } = useLaying(table, pointer, edit, onPick);
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
            onFocus={onFocus}
          >
            <circle cx={here?.x ?? x + 1} cy={here?.y ?? y + 1} r="0.62" />
          </g>
        </svg>
      </div>
    </div>
  );
}
