import { memo } from "react";
import type { WiringResult } from "../../api/client";
import { rowsOf } from "./geometry";
import css from "./Board.module.css";

interface Props {
  boards: WiringResult["boards"];
  rows: WiringResult["rows"];
}

/** Rows of the upper and of the lower half, by where they lie: five holes of a column are one strip. */
const HALVES = [
  [3, 7],
  [10, 14],
];

/** The breadboards: what is joined inside shows as bars behind the holes, the rails in the colour of their net. */
export const Boards = memo(function Boards({ boards, rows }: Props) {
  return boards.map((b) => {
    const columns = Array.from({ length: b.columns }, (_, i) => i);
    return (
      <g key={b.id} transform={`translate(${b.x} ${b.y})`}>
        <title>{`${b.id}: ${b.columns} columns${b.splitRails ? ", rails split in the middle" : ""}${b.joined ? ", rails of both sides joined" : ""}${b.beyond ? `, beyond the upper edge of ${b.beyond}, its lower rails taken off` : ""}`}</title>
        <rect className={css.board} x={b.left - b.x} y={b.top - b.y} width={b.width} height={b.height} rx="0.25" />
        {HALVES.map(([top, bottom]) => (
          <path key={top} className={css.strip} d={columns.map((x) => `M${x} ${top}V${bottom}`).join("")} />
        ))}
        {b.rails.map((r) => (
          <path
            key={`${r.row} ${r.first}`}
            className={css.rail}
            data-colour={r.colour}
            d={`M${r.first} ${r.y}H${r.last}`}
          >
            <title>{`Rail ${r.row} of ${b.id}: ${r.net ?? "joined to nothing yet"}`}</title>
          </path>
        ))}
        {rowsOf(b, rows).map((r) => {
          const xs = r.rail ? b.railXs : columns;
          const first = xs[0] ?? 0;
          const last = xs[xs.length - 1] ?? 0;
          return (
            <g key={r.name}>
              <path className={css.holes} d={xs.map((x) => `M${x} ${r.y}h0`).join("")} />
              <path className={css.bores} d={xs.map((x) => `M${x} ${r.y}h0`).join("")} />
              {[first - 0.95, last + 0.95].map((x) => (
                <text key={x} className={css.rowName} x={x} y={r.y + 0.3}>
                  {r.rail ? (r.name.endsWith("+") ? "+" : "−") : r.name}
                </text>
              ))}
            </g>
          );
        })}
        {columns
          .filter((c) => c === 0 || (c + 1) % 5 === 0)
          .map((c) => (
            <text key={c} className={css.column} x={c} y="8.8">
              {c + 1}
            </text>
          ))}
        <text className={css.boardName} x={b.left - b.x + 0.4} y={b.top - b.y - 0.3}>
          {b.id}
        </text>
      </g>
    );
  });
});
