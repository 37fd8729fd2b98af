import { useRef, type KeyboardEvent, type PointerEvent } from "react";
import type { PhotoPoint, Photograph } from "../../api/photos";
import { arrows } from "../../ui/arrows";
import { Bare } from "../../ui/Bare";
import { drag } from "../../ui/drag";
import { placeName, useBase } from "../../ui/places";
import type { Shot } from "./usePhotograph";
import css from "./Photograph.module.css";

interface Props {
  shot: Shot;
  /** Where the cells lie; those of what was read, or of corners that are being moved. */
  grid: PhotoPoint[][] | undefined;
  read: Photograph | undefined;
  corners: PhotoPoint[] | undefined;
  busy: boolean;
  onMove: (next: PhotoPoint[]) => void;
  /** They stay where they are. */
  onMoved: (corners: PhotoPoint[]) => void;
}

const CORNERS = ["Upper left", "Upper right", "Lower right", "Lower left"];

/** Below it a cell is doubtful. */
export const DOUBTFUL = 0.5;

/** The photograph with the cells that are seen in it, and four corners that are moved by pointer, finger and keys. */
export function PhotoPicture({ shot, grid, read, corners, busy, onMove, onMoved }: Props) {
  const picture = useRef<HTMLDivElement>(null);
  const base = useBase();
  const cols = read?.real.cols ?? 1;
  const moved = (i: number, x: number, y: number) =>
    (corners ?? []).map((c, k) => (k === i ? { x: within(x, shot.width), y: within(y, shot.height) } : c));
  const onKey = (i: number) => (e: KeyboardEvent) => {
    const by = arrows[e.key];
    const c = corners?.[i];
    if (!by || !c) return;
    e.preventDefault();
    const step = (shot.width / 400) * (e.shiftKey ? 8 : 1);
    onMove(moved(i, c.x + step * by[0], c.y + step * by[1]));
  };
  const onPointer = (i: number) => (e: PointerEvent) => {
    const box = picture.current?.getBoundingClientRect();
    if (!box) return;
    let last = corners;
    drag(e, {
      move: (ev) => {
        last = moved(
          i,
          ((ev.clientX - box.left) / box.width) * shot.width,
          ((ev.clientY - box.top) / box.height) * shot.height,
        );
        onMove(last);
      },
      end: () => last && onMoved(last),
    });
  };
  return (
    <div ref={picture} className={css.picture} aria-busy={busy}>
      <img src={shot.url} alt="The photograph" draggable={false} />
      <svg viewBox={`0 0 ${shot.width} ${shot.height}`} role="img" aria-label="Where the cells lie">
        {grid?.map((outline, i) => {
          const c = read?.cells[i];
          return (
            <polygon
              key={i}
              points={pointsOf(outline)}
              data-doubtful={(c && c.sure < DOUBTFUL && !read.blank) || undefined}
              data-other={c?.other || undefined}
            >
              {c && (
                <title>
                  {`${placeName({ row: Math.floor(i / cols), col: i % cols }, base)}: code 0x${c.code.toString(16).toUpperCase().padStart(2, "0")}, ${Math.round(100 * c.sure)} % sure${c.line ? ", with the cursor’s line" : ""}`}
                </title>
              )}
            </polygon>
          );
        })}
        {corners && <polygon className={css.frame} points={pointsOf(corners)} />}
      </svg>
      {corners?.map((c, i) => (
        <Bare
          key={CORNERS[i]}
          className={css.corner}
          aria-label={`${CORNERS[i]} corner of the cells`}
          title="Drag it, or move it with the arrow keys (Shift: further)"
          style={{ left: `${(100 * c.x) / shot.width}%`, top: `${(100 * c.y) / shot.height}%` }}
          onKeyDown={onKey(i)}
          onKeyUp={(e) => {
            if (e.key.startsWith("Arrow")) onMoved(corners);
          }}
          onPointerDown={onPointer(i)}
        />
      ))}
    </div>
  );
}

const within = (v: number, most: number) => Math.max(0, Math.min(most, v));
const pointsOf = (list: PhotoPoint[]) => list.map((p) => `${p.x.toFixed(1)},${p.y.toFixed(1)}`).join(" ");
