/** Columns and rows: one of them 1 or −1, the other 0. */
export type Direction = [number, number];

/** Where the arrow keys lead: columns to the right, and rows down. */
export const arrows: Record<string, Direction> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};
