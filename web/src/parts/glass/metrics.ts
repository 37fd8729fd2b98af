import type { Glass } from "../../api/client";

/** Dots from one cell to the next: five and one of space. */
export const CELL_COLS = 6;

/** Dots from one row of cells to the next: theirs and one of space. */
export const rowPitch = (glass: Glass): number => glass.cellRows + 1;

/** Dots of bare glass around the cells. */
export const GLASS_MARGIN = 2;

/** CSS pixels that a dot takes at most, by quarters, so that a glass of so many columns with its margin fits a width. */
export const fittingPitch = (cols: number, width: number, most: number): number =>
  Math.min(most, Math.floor(((width - 4) / (cols * CELL_COLS + 2 * GLASS_MARGIN)) * 4) / 4);
