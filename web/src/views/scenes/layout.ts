import type { Scene } from "../../api/plays";

/** Sizes of the map, in pixels. */
export const CARD = { width: 128, height: 72 };
const GAP = { x: 84, y: 34 };
const MARGIN = { x: 40, y: 22 };

export interface Spot {
  x: number;
  y: number;
  column: number;
  row: number;
}

/** Where each scene stands: by how many ends it is away from the first; what is never reached comes last. */
export function spotsOf(scenes: Scene[], start: string): Map<string, Spot> {
  const column = new Map<string, number>();
  let next = [start];
  for (let at = 0; next.length > 0; at++) {
    const now = next.filter((id) => !column.has(id));
    for (const id of now) column.set(id, at);
    next = now.flatMap((id) => (scenes.find((s) => s.id === id)?.ends ?? []).map((e) => e.next));
  }
  const beyond = Math.max(-1, ...column.values()) + 1;
  const rows: number[] = [];
  const out = new Map<string, Spot>();
  for (const s of scenes) {
    const at = column.get(s.id) ?? beyond;
    const row = rows[at] ?? 0;
    rows[at] = row + 1;
    out.set(s.id, {
      column: at,
      row,
      x: MARGIN.x + at * (CARD.width + GAP.x),
      y: MARGIN.y + row * (CARD.height + GAP.y),
    });
  }
  return out;
}

/** How large the map is. */
export function extent(spots: Iterable<Spot>): { width: number; height: number } {
  const all = [...spots];
  return {
    width: Math.max(...all.map((s) => s.x), 0) + CARD.width + MARGIN.x,
    height: Math.max(...all.map((s) => s.y), 0) + CARD.height + MARGIN.y,
  };
}

export interface Curve {
  path: string;
  /** Where its label stands. */
  x: number;
  y: number;
}

/**
 * The way of an end from one scene to another: straight on to the right, up or down within a column, or round below
 * where it leads back.
 * @param at which of the ends between the two it is
 * @param lane where a way back runs: all that lead to one scene share a lane
 */
export function curveOf(from: Spot, to: Spot, at: number, lane: Lane): Curve {
  const shift = at * 16;
  if (from === to) {
    const x = from.x + CARD.width / 2 + shift;
    const y = from.y;
    return { path: `M${x - 18} ${y}C${x - 26} ${y - 24} ${x + 26} ${y - 24} ${x + 18} ${y}`, x, y: y - 16 };
  }
  if (to.column > from.column) {
    const a = { x: from.x + CARD.width, y: from.y + 24 + shift };
    const b = { x: to.x, y: to.y + 24 + shift };
    const bend = Math.max((b.x - a.x) / 2, 24);
    return {
      path: `M${a.x} ${a.y}C${a.x + bend} ${a.y} ${b.x - bend} ${b.y} ${b.x} ${b.y}`,
      x: (a.x + b.x) / 2,
      y: (a.y + b.y) / 2,
    };
  }
  if (to.column === from.column && Math.abs(to.row - from.row) === 1) {
    const down = to.row > from.row;
    const x = from.x + CARD.width / 2 + (down ? 34 : -34) + shift;
    const a = down ? from.y + CARD.height : from.y;
    const b = down ? to.y : to.y + CARD.height;
    return { path: `M${x} ${a}L${x} ${b}`, x, y: (a + b) / 2 };
  }
  const a = { x: from.x + CARD.width + 12 + 9 * lane.from, y: from.y + 42 };
  const b = { x: to.x - 12 - 9 * lane.at, y: to.y + CARD.height - 14 };
  const y = lane.y + 16 + lane.at * LANE;
  return {
    path: `M${from.x + CARD.width} ${a.y}Q${a.x} ${a.y} ${a.x} ${a.y + 8}L${a.x} ${y - 8}Q${a.x} ${y} ${a.x - 8} ${y}L${b.x + 8} ${y}Q${b.x} ${y} ${b.x} ${y - 8}L${b.x} ${b.y + 8}Q${b.x} ${b.y} ${to.x} ${b.y}`,
    x: a.x + 12,
    y: from.y + CARD.height - 2 + 26 * lane.from,
  };
}

export interface Lane {
  /** Below all scenes. */
  y: number;
  /** Which lane it is, and which of the ways back from its scene. */
  at: number;
  from: number;
}

/** How far ways back to different scenes lie below each other, in pixels. */
export const LANE = 18;

/** Whether an end leads back, and goes round below. */
export const leadsBack = (from: Spot, to: Spot): boolean =>
  from !== to && (to.column < from.column || (to.column === from.column && Math.abs(to.row - from.row) !== 1));
