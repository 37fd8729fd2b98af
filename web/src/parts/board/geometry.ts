import type { WiringResult } from "../../api/client";
import type { Direction } from "../../ui/arrows";

/** In pitches of the table. */
export interface Point {
  x: number;
  y: number;
}

/** A place on the table: a hole, or a pin that lies in none. */
export interface Place extends Point {
  name: string;
}

/** The rows that a board has: of rails those that it has bars of. */
export function rowsOf(board: WiringResult["boards"][number], rows: WiringResult["rows"]) {
  return rows.filter((r) => !r.rail || board.rails.some((bar) => bar.row === r.name));
}

/** Every hole of every board. */
export function holesOf({ boards, rows }: Pick<WiringResult, "boards" | "rows">): Place[] {
  return boards.flatMap((b) =>
    rowsOf(b, rows).flatMap((r) => {
      const xs = r.rail ? b.railXs : Array.from({ length: b.columns }, (_, i) => i);
      return xs.map((x, i) => ({ name: `${b.id}/${r.name}${i + 1}`, x: b.x + x, y: b.y + r.y }));
    }),
  );
}

/** Every pin that lies in no hole. */
export function pinsOf({ things }: Pick<WiringResult, "things">): Place[] {
  return things.flatMap((t) =>
    t.placement === undefined ? t.pins.map((p) => ({ name: `${t.id}/${p.name}`, x: p.x, y: p.y })) : [],
  );
}

/** The place nearest to a point, within reach of a finger. */
export function nearest(places: Place[], x: number, y: number, reach = 0.9): Place | undefined {
  let best: Place | undefined;
  let least = reach * reach;
  for (const p of places) {
    const d = (p.x - x) ** 2 + (p.y - y) ** 2;
    if (d < least) [best, least] = [p, d];
  }
  return best;
}

/** The next place from one in a direction: along its row, or up and down its column. */
export function beside(places: Place[], from: Place, [dx, dy]: Direction): Place | undefined {
  let best: Place | undefined;
  let least = Infinity;
  for (const p of places) {
    const along = (p.x - from.x) * dx + (p.y - from.y) * dy;
    const across = Math.abs((p.x - from.x) * dy) + Math.abs((p.y - from.y) * dx);
    if (along < 0.3 || across > 0.6) continue;
    const d = along + across;
    if (d < least) [best, least] = [p, d];
  }
  return best;
}

/** What is left of a way, piece by piece, without what lies within reach of some places. */
export function cut(way: Point[], places: Point[], reach: number): Point[][] {
  const pieces: Point[][] = [];
  let piece: Point[] = [];
  const end = () => {
    if (piece.length > 1) pieces.push(piece);
    piece = [];
  };
  way.forEach((b, i) => {
    const a = way[i - 1];
    if (!a) return;
    const l = Math.hypot(b.x - a.x, b.y - a.y) || 1;
    const [dx, dy] = [(b.x - a.x) / l, (b.y - a.y) / l];
    const at = (t: number) => ({ x: a.x + dx * t, y: a.y + dy * t });
    const gaps = places
      .flatMap(({ x, y }) => {
        const [along, across] = [(x - a.x) * dx + (y - a.y) * dy, (x - a.x) * dy - (y - a.y) * dx];
        const half = Math.sqrt(Math.max(reach ** 2 - across ** 2, 0));
        return half > 0 && along + half > 0 && along - half < l ? [{ from: along - half, to: along + half }] : [];
      })
      .sort((g, h) => g.from - h.from);
    let t = 0; // how far it is drawn, or left out
    for (const { from, to } of gaps) {
      if (from > t) piece.push(...(piece.length > 0 ? [] : [at(t)]), at(from));
      end();
      t = Math.max(t, to);
    }
    if (t < l) piece.push(...(piece.length > 0 ? [] : [at(t)]), b);
  });
  end();
  return pieces;
}

/** A wire's way as an SVG path with round corners. */
export function pathOf(points: Point[]): string {
  const round = 0.5;
  return points
    .map((p, i) => {
      const before = points[i - 1];
      const after = points[i + 1];
      if (!before) return `M${p.x} ${p.y}`;
      if (!after) return `L${p.x} ${p.y}`;
      const towards = (o: Point) => {
        const l = Math.hypot(o.x - p.x, o.y - p.y) || 1;
        const f = Math.min(round, l / 2) / l;
        return `${p.x + (o.x - p.x) * f} ${p.y + (o.y - p.y) * f}`;
      };
      return `L${towards(before)}Q${p.x} ${p.y} ${towards(after)}`;
    })
    .join("");
}
