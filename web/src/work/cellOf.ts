import type { Step } from "../api/client";

/** The cell that a step writes, counted row by row; null for none. */
export function cellOf(step: Step | undefined, cols: number): number | null {
  return step?.row === undefined || step.col === undefined ? null : step.row * cols + step.col;
}
