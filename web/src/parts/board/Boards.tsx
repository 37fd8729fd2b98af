import { memo } from "react";
import type { WiringResult } from "../../api/client";
import css from "./Board.module.css";

interface Props {
  boards: WiringResult["boards"];
  rows: WiringResult["rows"];
}

/** The breadboards: their holes, the gap, the rails, and how rows and columns are counted. */
export const Boards = memo(function Boards({ boards, rows }: Props) {
  return boards.map((b) => (
    <g key={b.id} transform={`translate(${b.x} ${b.y})`}>
      <title>{`${b.id}: ${b.columns} columns${b.splitRails ? ", rails split in the middle" : ""}${b.joined ? ", rails of both sides joined" : ""}`}</title>
      <rect className={css.board} x={b.left - b.x} y={b.top - b.y} width={b.width} height={b.height} rx="0.7" />
      <rect className={css.gap} x={b.left - b.x} y="8.1" width={b.width} height="0.8" />
      {rows.map((r) => {
        const xs = r.rail ? b.railXs : Array.from({ length: b.columns }, (_, i) => i);
        const sign = r.name.endsWith("+") ? "+" : "−";
        const first = xs[0] ?? 0;
        const last = xs[xs.length - 1] ?? 0;
        const half = xs[Math.floor(xs.length / 2)] ?? 0;
        return (
          <g key={r.name}>
            {r.rail && (
              <path
                className={css.railLine}
                data-sign={sign}
                d={
                  b.splitRails
                    ? `M${first} ${r.y - 0.45}H${half - 0.8}M${half - 0.2} ${r.y - 0.45}H${last}`
                    : `M${first} ${r.y - 0.45}H${last}`
                }
              />
            )}
            <path className={css.holes} d={xs.map((x) => `M${x} ${r.y}h0`).join("")} />
            {[first - 0.85, last + 0.85].map((x) => (
              <text key={x} className={css.rowName} x={x} y={r.y + 0.3}>
                {r.rail ? sign : r.name}
              </text>
            ))}
          </g>
        );
      })}
      {Array.from({ length: b.columns }, (_, i) => i + 1)
        .filter((c) => c === 1 || c % 5 === 0)
        .map((c) => (
          <text key={c} className={css.column} x={c - 1} y="8.8">
            {c}
          </text>
        ))}
      <text className={css.boardName} x={b.left - b.x + 0.4} y={b.top - b.y - 0.3}>
        {b.id}
      </text>
    </g>
  ));
});
