import { memo } from "react";
import { dotPath } from "./dotPath";
import css from "./Cells.module.css";

interface Props {
  /** Rows of dots of each cell, row by row. */
  cells: readonly (readonly number[])[];
  cols: number;
  /** What it shows, for screen readers; absent where a text beside it says so. */
  label?: string;
  /** Pixels a dot takes. */
  dot?: number;
  /** Cells as they were wanted: dots that differ are marked. */
  wanted?: readonly (readonly number[])[];
}

/** Cells of dots with the gaps that the glass has between them. */
export const Cells = memo(function Cells({ cells, cols, label, dot = 4, wanted }: Props) {
  const height = Math.max(8, ...cells.map((c) => c.length));
  const rows = Math.ceil(cells.length / cols);
  const [w, h] = [cols * 6 - 1, rows * (height + 1) - 1];
  return (
    <svg
      className={css.cells}
      viewBox={`0 0 ${w} ${h}`}
      width={w * dot}
      height={h * dot}
      role={label ? "img" : undefined}
      aria-label={label}
      aria-hidden={label ? undefined : true}
    >
      {cells.map((c, i) => (
        <g key={i} transform={`translate(${(i % cols) * 6} ${Math.floor(i / cols) * (height + 1)})`}>
          <rect className={css.ground} width={5} height={height} />
          <path d={dotPath(c)} />
          {wanted && <path className={css.changed} d={dotPath(c.map((v, row) => v ^ (wanted[i]?.[row] ?? 0)))} />}
        </g>
      ))}
    </svg>
  );
});
