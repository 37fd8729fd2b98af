import type { Glass } from "../../api/client";
import { CELL_COLS, rowPitch } from "./metrics";
import type { Tint } from "./tints";

/** The colour between the dots. */
export const groundOf = (glass: Glass, tint: Tint): string => (tint.glow > 2 || glass.light ? tint.ground : tint.unlit);

/** Draws a glass onto a canvas, with so many pixels of the screen for a CSS pixel. */
export function paint(
  canvas: HTMLCanvasElement,
  glass: Glass,
  dots: Uint8Array,
  tint: Tint,
  pitch: number,
  scale: number,
) {
  const width = Math.round((glass.cols * CELL_COLS - 1) * pitch * scale);
  const height = Math.round((glass.rows * rowPitch(glass) - 1) * pitch * scale);
  if (canvas.width !== width || canvas.height !== height) {
    canvas.width = width;
    canvas.height = height;
  }
  const ctx = canvas.getContext("2d");
  if (!ctx) return;
  const emits = tint.glow > 2;
  const lit = emits || glass.light;
  ctx.fillStyle = groundOf(glass, tint);
  ctx.fillRect(0, 0, width, height);

  const strengths = { lit: glass.lit, dark: Math.max(glass.dark, emits ? 0.03 : 0.035), bare: 0.02 };
  const paths = { lit: new Path2D(), dark: new Path2D(), bare: new Path2D() };
  const step = pitch * scale;
  const side = step * (pitch > 3 ? 0.86 : 0.92);
  for (let cell = 0; cell < glass.cols * glass.rows; cell++) {
    const x0 = (cell % glass.cols) * CELL_COLS;
    const y0 = Math.floor(cell / glass.cols) * rowPitch(glass);
    const bare = glass.bare?.[cell] ?? false;
    for (let row = 0; row < glass.cellRows; row++) {
      const bits = dots[cell * glass.cellRows + row] ?? 0;
      for (let col = 0; col < 5; col++) {
        const kind = bare || (glass.short && row >= 8) ? "bare" : (bits >> (4 - col)) & 1 ? "lit" : "dark";
        paths[kind].rect((x0 + col) * step, (y0 + row) * step, side, side);
      }
    }
  }
  ctx.fillStyle = lit ? tint.dot : tint.dotUnlit;
  for (const kind of ["bare", "dark", "lit"] as const) {
    ctx.globalAlpha = strengths[kind];
    ctx.shadowBlur = kind === "lit" && lit ? tint.glow * scale : 0;
    ctx.shadowColor = tint.dot;
    ctx.fill(paths[kind]);
  }
  ctx.globalAlpha = 1;
  ctx.shadowBlur = 0;
}
