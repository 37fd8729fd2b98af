import { useEffect, useMemo, useRef } from "react";
import type { Glass as GlassState } from "../../api/client";
import { bytes } from "../../api/bytes";
import { usePixelRatio } from "../../ui/usePixelRatio";
import { CELL_COLS, rowPitch } from "./metrics";
import { paint } from "./paint";
import { tintOf } from "./tints";

interface Props {
  glass: GlassState;
  tint: string | undefined;
  /** CSS pixels a dot takes, its gap included. */
  pitch: number;
  /** What the picture is of, for screen readers. */
  name: string;
}

/** The glass, dot by dot. It is drawn from what the simulated module shows. */
export function Glass({ glass, tint, pitch, name }: Props) {
  const scale = usePixelRatio();
  const canvas = useRef<HTMLCanvasElement>(null);
  const dots = useMemo(() => bytes(glass.dots), [glass.dots]);
  const width = (glass.cols * CELL_COLS - 1) * pitch;
  const height = (glass.rows * rowPitch(glass) - 1) * pitch;

  useEffect(() => {
    const target = canvas.current;
    if (!target) return;
    paint(target, glass, dots, tintOf(tint), pitch, scale);
    const { other } = glass;
    if (!other) return;
    const sides = [dots, bytes(other.dots)];
    let side = 0;
    const timer = window.setInterval(() => {
      side = 1 - side;
      paint(target, glass, sides[side] ?? dots, tintOf(tint), pitch, scale);
    }, other.phaseMs);
    return () => window.clearInterval(timer);
  }, [glass, dots, tint, pitch, scale]);

  const text = glass.text.map((row, i) => `row ${i + 1}: ${row.trimEnd() || "blank"}`).join("; ");
  return (
    <canvas
      ref={canvas}
      role="img"
      aria-label={`${name} shows ${text}`}
      data-rows={JSON.stringify(glass.text)}
      style={{ width, height, display: "block" }}
    />
  );
}
