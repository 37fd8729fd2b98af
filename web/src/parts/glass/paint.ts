import type { Glass } from "../../api/client";
import { CELL_COLS, rowPitch } from "./metrics";
import type { Tint } from "./tints";

/** What a canvas shows. */
export interface Picture {
  glass: Glass;
  /** Of its cells, row by row, a byte for each row of dots. */
  dots: Uint8Array;
  tint: Tint;
  /** CSS pixels a dot takes, its gap included. */
  pitch: number;
  /** Pixels of the screen for a CSS pixel. */
  scale: number;
}

/** The cells from one corner to another, both included. */
interface Cells {
  left: number;
  top: number;
  right: number;
  bottom: number;
}

/** The colour between the dots. */
export const groundOf = (glass: Glass, tint: Tint): string => (isLit(glass, tint) ? tint.ground : tint.unlit);

/** Whether dots of a tint give light by themselves. */
const emits = (tint: Tint) => tint.glow > 2;

/** Whether there is light, the dots' own or behind them. */
const isLit = (glass: Glass, tint: Tint) => emits(tint) || glass.light;

/** Draws a picture onto a canvas. Of one that differs in a few cells from what stands there, only those are drawn. */
export function paint(canvas: HTMLCanvasElement, next: Picture, before: Picture | undefined) {
  const { glass, tint, pitch, scale } = next;
  const width = Math.round((glass.cols * CELL_COLS - 1) * pitch * scale);
  const height = Math.round((glass.rows * rowPitch(glass) - 1) * pitch * scale);
  if (canvas.width !== width || canvas.height !== height) {
    canvas.width = width;
    canvas.height = height;
    before = undefined;
  }
  const ctx = canvas.getContext("2d");
  if (!ctx) return;
  const all = { left: 0, top: 0, right: glass.cols - 1, bottom: glass.rows - 1 };
  const changed = before && alike(next, before) ? differing(next, before) : all;
  if (!changed) return;
  const step = pitch * scale;
  const blur = (isLit(glass, tint) ? tint.glow : 0) * scale;
  const reach = Math.ceil(1.5 * blur) + 1; // three standard deviations of the blur
  const x = Math.max(Math.floor(changed.left * CELL_COLS * step) - reach, 0);
  const y = Math.max(Math.floor(changed.top * rowPitch(glass) * step) - reach, 0);
  const right = Math.min(Math.ceil((changed.right + 1) * CELL_COLS * step) + reach, width);
  const bottom = Math.min(Math.ceil((changed.bottom + 1) * rowPitch(glass) * step) + reach, height);
  const cellAt = (pixel: number, dots: number, most: number) =>
    Math.min(Math.max(Math.floor(pixel / (dots * step)), 0), most);
  ctx.save();
  ctx.beginPath();
  ctx.rect(x, y, right - x, bottom - y); // whole pixels: nothing at its edges is drawn in part
  ctx.clip();
  ctx.fillStyle = groundOf(glass, tint);
  ctx.fillRect(x, y, right - x, bottom - y);
  drawDots(ctx, next, blur, {
    left: cellAt(x - reach, CELL_COLS, all.right),
    top: cellAt(y - reach, rowPitch(glass), all.bottom),
    right: cellAt(right + reach, CELL_COLS, all.right),
    bottom: cellAt(bottom + reach, rowPitch(glass), all.bottom),
  });
  ctx.restore();
}

/** Whether two pictures differ in what single cells show at most. */
function alike(a: Picture, b: Picture): boolean {
  const same = ["cols", "rows", "cellRows", "light", "lit", "dark", "short"] as const;
  return (
    a.tint === b.tint && a.pitch === b.pitch && a.scale === b.scale && same.every((k) => a.glass[k] === b.glass[k])
  );
}

/** The least corner to corner within which two pictures differ; undefined where they do not. */
function differing({ glass, dots }: Picture, before: Picture): Cells | undefined {
  let out: Cells | undefined;
  for (let cell = 0; cell < glass.cols * glass.rows; cell++) {
    if (sameCell(cell)) continue;
    const col = cell % glass.cols;
    const row = Math.floor(cell / glass.cols);
    out ??= { left: col, top: row, right: col, bottom: row };
    out = { ...out, left: Math.min(out.left, col), right: Math.max(out.right, col), bottom: row };
  }
  return out;

  function sameCell(cell: number): boolean {
    if ((glass.bare?.[cell] ?? false) !== (before.glass.bare?.[cell] ?? false)) return false;
    for (let i = cell * glass.cellRows; i < (cell + 1) * glass.cellRows; i++)
      if (dots[i] !== before.dots[i]) return false;
    return true;
  }
}

/** Draws the dots of some cells, with so many pixels of bloom around the lit ones. */
function drawDots(
  ctx: CanvasRenderingContext2D,
  { glass, dots, tint, pitch, scale }: Picture,
  blur: number,
  of: Cells,
) {
  const strengths = { lit: glass.lit, dark: Math.max(glass.dark, emits(tint) ? 0.03 : 0.035), bare: 0.02 };
  const paths = { lit: new Path2D(), dark: new Path2D(), bare: new Path2D() };
  const step = pitch * scale;
  const side = step * (pitch > 3 ? 0.86 : 0.92);
  for (let y = of.top; y <= of.bottom; y++)
    for (let x = of.left; x <= of.right; x++) {
      const cell = y * glass.cols + x;
      const bare = glass.bare?.[cell] ?? false;
      for (let row = 0; row < glass.cellRows; row++) {
        const bits = dots[cell * glass.cellRows + row] ?? 0;
        for (let col = 0; col < 5; col++) {
          const kind = bare || (glass.short && row >= 8) ? "bare" : (bits >> (4 - col)) & 1 ? "lit" : "dark";
          paths[kind].rect((x * CELL_COLS + col) * step, (y * rowPitch(glass) + row) * step, side, side);
        }
      }
    }
  ctx.fillStyle = isLit(glass, tint) ? tint.dot : tint.dotUnlit;
  ctx.shadowColor = tint.dot;
  for (const kind of ["bare", "dark", "lit"] as const) {
    ctx.globalAlpha = strengths[kind];
    ctx.shadowBlur = kind === "lit" ? blur : 0;
    ctx.fill(paths[kind]);
  }
}
