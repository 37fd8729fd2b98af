import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, type RefObject } from "react";
import type { Glass as GlassState } from "../../api/client";
import { bytes } from "../../api/bytes";
import { usePixelRatio } from "../../ui/usePixelRatio";
import { CELL_COLS, rowPitch } from "./metrics";
import { paint, type Picture } from "./paint";
import { tintOf } from "./tints";

interface Props {
  glass: GlassState;
  tint: string | undefined;
  /** CSS pixels a dot takes, its gap included. */
  pitch: number;
  /** What the picture is of, for screen readers. */
  name: string;
  /** Is set to what shows the next glass before it is drawn with it, in the frame in which it is known. */
  showRef?: RefObject<(next: GlassState) => void>;
}

/** What a picture says. */
const wordsOf = (name: string, glass: GlassState) =>
  `${name} shows ${glass.text.map((row, i) => `row ${i + 1}: ${row.trimEnd() || "blank"}`).join("; ")}`;

/** The glass, dot by dot. It is drawn from what the simulated module shows. */
export function Glass({ glass, tint, pitch, name, showRef }: Props) {
  const scale = usePixelRatio();
  const canvas = useRef<HTMLCanvasElement>(null);
  const dots = useMemo(() => bytes(glass.dots), [glass.dots]);
  const width = (glass.cols * CELL_COLS - 1) * pitch;
  const height = (glass.rows * rowPitch(glass) - 1) * pitch;

  const standing = useRef<Picture>(undefined); // what the canvas shows
  useEffect(() => {
    const target = canvas.current;
    const afresh = () => {
      if (target && standing.current) paint(target, standing.current, undefined);
    };
    target?.addEventListener("contextrestored", afresh); // a browser may take away what a canvas shows
    return () => target?.removeEventListener("contextrestored", afresh);
  }, []);
  const show = useCallback(
    (next: GlassState, dots: Uint8Array) => {
      const picture = { glass: next, dots, tint: tintOf(tint), pitch, scale };
      if (canvas.current) paint(canvas.current, picture, standing.current);
      standing.current = picture;
    },
    [tint, pitch, scale],
  );

  useLayoutEffect(() => {
    if (!showRef) return;
    showRef.current = (next) => {
      const target = canvas.current;
      if (!target || next.cols !== glass.cols || next.rows !== glass.rows) return;
      show(next, bytes(next.dots));
      target.ariaLabel = wordsOf(name, next);
      target.dataset.rows = JSON.stringify(next.text);
    };
    return () => {
      showRef.current = () => undefined;
    };
  }, [showRef, glass, show, name]);

  useEffect(() => {
    show(glass, dots);
    const { other } = glass;
    if (!other) return;
    const sides = [dots, bytes(other.dots)];
    let side = 0;
    const timer = window.setInterval(() => {
      side = 1 - side;
      show(glass, sides[side] ?? dots);
    }, other.phaseMs);
    return () => window.clearInterval(timer);
  }, [glass, dots, show]);

  return (
    <canvas
      ref={canvas}
      role="img"
      aria-label={wordsOf(name, glass)}
      data-rows={JSON.stringify(glass.text)}
      style={{ width, height, display: "block" }}
    />
  );
}
