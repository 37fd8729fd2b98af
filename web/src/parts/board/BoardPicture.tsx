import { useMemo, type CSSProperties } from "react";
import type { WiringResult } from "../../api/client";
import css from "./Board.module.css";
import { Boards } from "./Boards";
import { ThingShape, type ThingActs } from "./Things";
import { WireShape, type WireActs } from "./Wires";
import "./colours.css";

interface Props {
  result: WiringResult;
  /** Full names of pins, such as hall/D4, that are looked at. */
  pins: string[];
  /** The part that is looked at where no pin of the drawing is. */
  part: string;
  /** A wire was clicked, or reached by Tab. */
  onWire: (number: number) => void;
}

/** Numbers of the wires that meet one of some pins; of all of its net where none meets the pin itself. */
export function wiresAt(result: WiringResult, pins: string[]): number[] {
  const meets = result.wires.filter((w) => pins.includes(w.from) || pins.includes(w.to));
  const nets = result.nets.filter((n) => (n.pins ?? []).some((p) => pins.includes(p))).map((n) => n.name);
  const list = meets.length > 0 ? meets : result.wires.filter((w) => nets.includes(w.net));
  return list.map((w) => w.number);
}

/** About how large it is drawn, in CSS pixels. */
const WIDTH = 360;
const HEIGHT = 250;

/** Room around what is looked at, in pitches. */
const ROOM = 4;

/** The board as it is drawn, to look at: some pins and the wires that meet them stand out. */
export function BoardPicture({ result, pins, part, onWire }: Props) {
  const wires = useMemo(() => wiresAt(result, pins), [result, pins]);
  const things = useMemo<ThingActs>(() => ({ pick: () => undefined, key: () => undefined, down: () => undefined }), []);
  const acts = useMemo<WireActs>(() => ({ pick: onWire, key: () => undefined, down: () => undefined }), [onWire]);
  const box = useMemo(() => {
    const xs: number[] = [];
    const ys: number[] = [];
    for (const w of result.wires)
      if (wires.includes(w.number))
        for (const p of w.path) {
          xs.push(p.x);
          ys.push(p.y);
        }
    for (const t of result.things)
      for (const p of t.pins)
        if (pins.includes(`${t.id}/${p.name}`)) {
          xs.push(p.x);
          ys.push(p.y);
        }
    const all = result.bounds;
    for (const t of result.things)
      if (t.id === part && (xs.length === 0 || t.w < 0.8 * (Math.max(...xs) - Math.min(...xs)))) {
        xs.push(t.x, t.x + t.w);
        ys.push(t.y, t.y + t.h);
      }
    if (xs.length === 0) return all;
    const x = Math.max(Math.min(...xs) - ROOM, all.x);
    const y = Math.max(Math.min(...ys) - ROOM, all.y);
    return {
      x,
      y,
      w: Math.min(Math.max(...xs) + ROOM, all.x + all.w) - x,
      h: Math.min(Math.max(...ys) + ROOM, all.y + all.h) - y,
    };
  }, [result, wires, pins, part]);
  return (
    <svg
      className={css.drawing}
      viewBox={`${box.x} ${box.y} ${box.w} ${box.h}`}
      width="100%"
      height="100%"
      style={{ "--text": `${(10 * Math.max(box.w / WIDTH, box.h / HEIGHT)).toFixed(2)}px` } as CSSProperties}
      role="group"
      aria-label={`The board, with ${wires.length} wires marked`}
    >
      <Boards boards={result.boards} rows={result.rows} />
      {result.things.map((t) => (
        <ThingShape
          key={t.id}
          thing={t}
          picked={false}
          marked={t.pins.flatMap((p) => (pins.includes(`${t.id}/${p.name}`) ? [p.name] : [])).join("\n")}
          acts={things}
        />
      ))}
      {result.wires.map((w) => (
        <WireShape
          key={w.number}
          wire={w}
          picked={wires.includes(w.number)}
          faded={wires.length > 0 && !wires.includes(w.number)}
          acts={acts}
        />
      ))}
    </svg>
  );
}
