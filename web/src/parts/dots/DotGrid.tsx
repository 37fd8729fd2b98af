import { useRef, type PointerEvent } from "react";
import { tintOf } from "../glass/tints";
import { drag } from "../../ui/drag";
import { useLatest } from "../../ui/useLatest";
import { litAt, type Dot, type Sheet } from "../../work/glyphs";
import css from "./DotGrid.module.css";

interface Props {
  sheet: Sheet;
  /** Rows of dots of a cell; the last is the cursor's. */
  height: number;
  tint: string | undefined;
  at: Dot;
  onAt: (d: Dot) => void;
  onLight: (dots: Dot[], lit: boolean, tag: string) => void;
}

/** A dot with its gap, and the gap between cells, in units of the drawing. */
const DOT = 10;
const GAP = 10;

const place = (n: number, per: number) => n * DOT + Math.floor(n / per) * GAP;

/** The dots on the way from one to another, both included: a fast pointer leaves some out. */
function between(from: Dot, to: Dot): Dot[] {
  const steps = Math.max(Math.abs(to.x - from.x), Math.abs(to.y - from.y));
  return Array.from({ length: steps + 1 }, (_, i) => ({
    x: Math.round(from.x + ((to.x - from.x) * i) / (steps || 1)),
    y: Math.round(from.y + ((to.y - from.y) * i) / (steps || 1)),
  }));
}

/** The dots of a sheet, in the colours of the glass, to be lit and darkened. */
export function DotGrid({ sheet, height, tint, at, onAt, onLight }: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const acts = useLatest({ onLight, onAt }); // each dot of a stroke changes the sheet
  const { cols, rows, cells } = sheet;
  const w = cols * (5 * DOT + GAP) - GAP;
  const h = rows * (height * DOT + GAP) - GAP;
  const look = tintOf(tint);
  const lit = (d: Dot) => litAt(sheet, height, d);

  /** The dot under the pointer; undefined in a gap. */
  const dotOf = (e: { clientX: number; clientY: number }): Dot | undefined => {
    const to = svg.current?.getScreenCTM();
    if (!to) return undefined;
    const one = (v: number, per: number, n: number) => {
      const cell = Math.floor(v / (per * DOT + GAP));
      const within = Math.floor((v - cell * (per * DOT + GAP)) / DOT);
      return cell < 0 || cell >= n || within < 0 || within >= per ? -1 : cell * per + within;
    };
    const x = one((e.clientX - to.e) / to.a, 5, cols);
    const y = one((e.clientY - to.f) / to.d, height, rows);
    return x < 0 || y < 0 ? undefined : { x, y };
  };
  /** A stroke lights, or darkens, what it goes over, as it does the dot where it begins. */
  const stroke = (e: PointerEvent) => {
    if (e.button !== 0) return;
    const first = dotOf(e);
    const on = first && !lit(first);
    const tag = `stroke ${Date.now()}`;
    let last = first;
    const paint = (d: Dot) => {
      acts.current.onLight(between(last ?? d, d), on ?? true, tag);
      last = d;
      acts.current.onAt(d);
    };
    if (first) paint(first);
    drag(e, {
      move: (ev) => {
        const d = dotOf(ev);
        if (first && d && (d.x !== last?.x || d.y !== last.y)) paint(d);
      },
    });
  };
  const side = Math.min(36, 560 / (cols * 6 - 1), 330 / (rows * (height + 1) - 1));
  return (
    <svg
      ref={svg}
      className={css.grid}
      viewBox={`-6 -6 ${w + 12} ${h + 12}`}
      style={{ width: ((w + 12) / DOT) * side, background: look.ground }}
      role="application"
      tabIndex={0}
      aria-label={`Dots of ${sheet.name || "an unnamed glyph"}: row ${at.y + 1}, column ${at.x + 1} is ${lit(at) ? "lit" : "dark"}. Arrows move, Space changes it.`}
      data-cells={JSON.stringify(cells)}
      onPointerDown={stroke}
    >
      {cells.map((rowsOf, i) => (
        <g
          key={i}
          transform={`translate(${(i % cols) * (5 * DOT + GAP)} ${Math.floor(i / cols) * (height * DOT + GAP)})`}
        >
          <rect
            className={css.cursorLine}
            x={-3}
            y={(height - 1) * DOT - 1}
            width={5 * DOT + 5}
            height={DOT + 1}
            style={{ stroke: look.dot }}
          />
          {rowsOf.map((bits, y) =>
            [0, 1, 2, 3, 4].map((x) => (
              <rect
                key={`${x}-${y}`}
                x={x * DOT + 0.5}
                y={y * DOT + 0.5}
                width={DOT - 1}
                height={DOT - 1}
                fill={look.dot}
                fillOpacity={(bits >> (4 - x)) & 1 ? 1 : 0.09}
              />
            )),
          )}
        </g>
      ))}
      <rect
        className={css.at}
        x={place(at.x, 5) - 0.75}
        y={place(at.y, height) - 0.75}
        width={DOT + 1.5}
        height={DOT + 1.5}
        rx={1}
      />
    </svg>
  );
}
