import { useEffect, useRef, type KeyboardEvent, type PointerEvent } from "react";
import type { Channel, ChannelLevels, Reading } from "../../api/recordings";
import { drag } from "../../ui/drag";
import { digits } from "../../ui/numbers";
import { pressed } from "../../ui/shortcuts";
import { useLatest } from "../../ui/useLatest";
import { useWidth } from "../../ui/useWidth";
import { HEAD, LANE, WORDS, wordsOf } from "./lanes";
import { stamp, ticks } from "./time";
import { usePart, type Drawn } from "./usePart";
import type { Moved, Window } from "./useWindow";
import css from "./Lanes.module.css";

const LEAST = 4; // px, of an operation that is drawn
const SNAP = 8; // px, to the edge beside the pointer

interface Props {
  reading: Reading;
  /** Indexes of the channels that are drawn. */
  shown: number[];
  moved: Moved;
  /** To what comes next, or came before: an operation, an edge of a channel, a broken limit. */
  step: (what: "operation" | "edge" | "limit", back: boolean, channel?: number) => void;
  /** What happens at the time that is looked at, in words. */
  says: string;
}

/** The channels over time, with what their levels mean, under one time that is looked at. */
export function Lanes({ reading, shown, moved, step, says }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const width = useWidth(box);
  const { w, whole } = moved;
  const part = usePart(reading.id, w, width, whole);
  const span = w.to - w.from;
  const x = (ns: number) => ((ns - w.from) / span) * width;
  const time = (px: number) => w.from + (px / width) * span;
  const latest = useLatest({ moved, time });
  const words = wordsOf(reading).length;
  const top = HEAD + words * WORDS;
  const height = top + shown.length * LANE;

  useEffect(() => {
    const element = box.current;
    if (!element) return;
    const onWheel = (e: WheelEvent) => {
      e.preventDefault(); // a listener of React's own could not
      const { moved, time } = latest.current;
      const px = e.clientX - element.getBoundingClientRect().left;
      if (e.shiftKey || Math.abs(e.deltaX) > Math.abs(e.deltaY))
        moved.pan((((e.deltaX || e.deltaY) / element.clientWidth) * (moved.w.to - moved.w.from)) / 2);
      else moved.zoom(Math.exp(Math.min(Math.max(e.deltaY, -200), 200) / 300), time(px));
    };
    element.addEventListener("wheel", onWheel, { passive: false });
    return () => element.removeEventListener("wheel", onWheel);
  }, [latest]);

  const onPointerDown = (e: PointerEvent<HTMLDivElement>) => {
    if (e.button !== 0) return;
    const left = e.currentTarget.getBoundingClientRect().left;
    const laneAt = Math.floor((e.clientY - e.currentTarget.getBoundingClientRect().top - top) / LANE);
    const began = e.clientX;
    const held = w;
    let dragged = false;
    drag(e, {
      move: (ev) => {
        if (Math.abs(ev.clientX - began) > 4) dragged = true;
        if (dragged) {
          const by = ((began - ev.clientX) / width) * (held.to - held.from);
          moved.show(held.from + by, held.to + by);
        }
      },
      end: (ev) => {
        if (dragged) return;
        const channel = shown[laneAt];
        const at = time(ev.clientX - left);
        moved.look(channel === undefined ? at : nearest(part?.part.channels[channel], at, (SNAP / width) * span));
      },
    });
  };
  const onKeyDown = (e: KeyboardEvent) => {
    const key = pressed("recording", e) ?? pressed("recordingEdge", e) ?? (e.key === "+" ? "+" : undefined); // held or not
    if (!key || e.target !== e.currentTarget) return;
    e.preventDefault();
    e.stopPropagation();
    const back = e.key === "ArrowLeft" || e.key === "V";
    const acts: Record<string, () => void> = {
      "←": () => step(e.shiftKey ? "edge" : "operation", true),
      "→": () => step(e.shiftKey ? "edge" : "operation", false),
      "+": () => moved.zoom(0.5),
      "-": () => moved.zoom(2),
      "0": moved.all,
      "Page Up": () => moved.pan(-span * 0.8),
      "Page Down": () => moved.pan(span * 0.8),
      Home: () => moved.look(0),
      End: () => moved.look(whole),
      A: () => moved.mark("a"),
      B: () => moved.mark("b"),
      V: () => step("limit", back && e.shiftKey),
    };
    acts[key]?.();
  };
  return (
    <div
      ref={box}
      className={css.lanes}
      style={{ height }}
      role="slider"
      tabIndex={0}
      aria-label="Time of the recording"
      aria-valuemin={0}
      aria-valuemax={whole}
      aria-valuenow={w.at}
      aria-valuetext={`${stamp(w.at)}${says && `: ${says}`}`}
      onPointerDown={onPointerDown}
      onKeyDown={onKeyDown}
    >
      <svg width={width} height={height} aria-hidden="true">
        {ticks(w.from, w.to, Math.max(2, Math.floor(width / 130))).map((t) => (
          <g key={t.at} className={css.tick}>
            <path d={`M${x(t.at).toFixed(1)} ${HEAD - 6}V${height}`} />
            <text x={x(t.at) + 4} y={14}>
              {t.says}
            </text>
          </g>
        ))}
        {words > 0 && <Operations drawn={part} x={x} w={w} y={HEAD} />}
        {words > 1 && <Bytes drawn={part} x={x} w={w} y={HEAD + WORDS} />}
        {shown.map((channel, i) => (
          <Wave
            key={channel}
            levels={part?.part.channels[channel]}
            channel={reading.channels[channel]}
            part={part}
            x={x}
            w={w}
            y={top + i * LANE}
          />
        ))}
        {reading.broken
          .filter((b) => b.atNs >= w.from && b.atNs <= w.to)
          .slice(0, 400)
          .map((b, i) => (
            <path key={i} className={css.broken} d={`M${x(b.atNs).toFixed(1)} ${HEAD - 8}V${height}`}>
              <title>{b.what}</title>
            </path>
          ))}
        <Marks w={w} x={x} height={height} />
        <path className={css.at} d={`M${x(w.at).toFixed(1)} 0V${height}`} />
        <path className={css.head} d={`M${(x(w.at) - 6).toFixed(1)} 0h12l-6 9z`} />
      </svg>
      {(["a", "b"] as const).map((which) => {
        const t = w[which];
        if (t === undefined || t < w.from || t > w.to) return null;
        return (
          <span
            key={which}
            className={css.flag}
            data-mark={which}
            style={{ left: x(t) }}
            title={`Mark ${which.toUpperCase()} at ${stamp(t)}: drag it to another time`}
            onPointerDown={(e) => {
              e.stopPropagation();
              const left = box.current?.getBoundingClientRect().left ?? 0;
              drag(e, { move: (ev) => moved.mark(which, Math.min(Math.max(time(ev.clientX - left), 0), whole)) });
            }}
          >
            {which.toUpperCase()}
          </span>
        );
      })}
    </div>
  );
}

/** The edge of a channel beside a time, where one is near enough. */
function nearest(levels: ChannelLevels | undefined, at: number, within: number): number {
  let best = at;
  let least = within;
  for (const t of levels?.turns ?? []) {
    const d = Math.abs(t - at);
    if (d <= least) [best, least] = [t, d];
  }
  return best;
}

interface Drawing {
  drawn: Drawn | undefined;
  x: (ns: number) => number;
  w: Window;
  y: number;
}

/** Levels: high at the top of the lane, low at its bottom; filled where they change more often than can be drawn. */
function Wave({
  levels,
  channel,
  part,
  x,
  w,
  y,
}: {
  levels: ChannelLevels | undefined;
  channel: Channel | undefined;
  part: Drawn | undefined;
  x: (ns: number) => number;
  w: Window;
  y: number;
}) {
  if (!levels || !part) return null;
  const level = (high: boolean) => y + (high ? 5 : LANE - 5);
  let high = levels.high;
  let d = "";
  const begin = Math.max(part.from, w.from);
  for (const t of levels.turns) {
    if (t > w.to) break;
    if (t > begin) {
      if (!d) d = `M${x(begin).toFixed(1)} ${level(high)}`;
      d += `H${x(t).toFixed(1)}V${level(!high)}`;
    }
    high = !high;
  }
  if (!d) d = `M${x(begin).toFixed(1)} ${level(high)}`;
  d += `H${x(Math.min(part.to, w.to)).toFixed(1)}`;
  let busy = "";
  for (let i = 0; i + 1 < levels.busy.length; i += 2) {
    const [from = 0, to = 0] = [levels.busy[i], levels.busy[i + 1]];
    if (to < w.from || from > w.to) continue;
    const left = x(Math.max(from, w.from));
    busy += `M${left.toFixed(1)} ${level(true)}H${Math.max(x(Math.min(to, w.to)), left + 1).toFixed(1)}V${level(false)}H${left.toFixed(1)}Z`;
  }
  return (
    <g data-line={channel?.line ?? undefined}>
      <path className={css.busy} d={busy} />
      <path className={css.wave} d={d} />
    </g>
  );
}

/** What the strobes mean: the characters that are written, and the instructions. */
function Operations({ drawn, x, w, y }: Drawing) {
  const list = drawn?.part.operations ?? [];
  const room = (w.to - w.from) / list.length; // about, of each
  if (drawn?.part.many || x(w.from + room) < LEAST)
    return (
      <text className={css.many} x={6} y={y + 17}>
        too many operations to be named: look nearer
      </text>
    );
  let gap = Infinity;
  list.forEach((o, i) => {
    if (i > 0) gap = Math.min(gap, o.atNs - (list[i - 1]?.atNs ?? 0));
  });
  return (
    <g>
      {list.map((o, i) => {
        const begin = Math.max(
          list[i - 1]?.atNs ?? -Infinity,
          o.atNs - (gap === Infinity ? (w.to - w.from) / 12 : gap),
        );
        const [left, right] = [x(begin), x(o.atNs)];
        if (right < 0 || left > x(w.to)) return null;
        const wide = right - left;
        return (
          <g key={o.index} className={css.word} data-data={o.rs || undefined} data-lost={o.lost || undefined}>
            <rect x={left + 0.5} y={y + 2} width={Math.max(wide - 1, 1)} height={WORDS - 5} rx={3} />
            {wide > 12 && (
              <text x={(Math.max(left, 0) + right) / 2} y={y + 17}>
                {o.short === " " ? "␣" : o.short}
              </text>
            )}
            <title>
              {o.meaning}
              {o.lost && ": lost, the controller was busy"}
            </title>
          </g>
        );
      })}
    </g>
  );
}

/** The bytes on the bus, or into the register. */
function Bytes({ drawn, x, w, y }: Drawing) {
  return (
    <g>
      {(drawn?.part.bytes ?? []).map((b) => {
        const [left, right] = [x(b.fromNs), x(b.atNs)];
        if (right < 0 || left > x(w.to)) return null;
        return (
          <g
            key={b.atNs}
            className={css.byte}
            data-address={b.address || undefined}
            data-refused={b.refused || undefined}
          >
            <rect x={left + 0.5} y={y + 2} width={Math.max(right - left - 1, 1)} height={WORDS - 5} rx={3} />
            {right - left > 20 && (
              <text x={(left + right) / 2} y={y + 17}>
                {b.address ? `${digits(b.value >> 1)}${b.value & 1 ? "r" : "w"}` : digits(b.value)}
                {b.refused && " ✗"}
              </text>
            )}
            <title>
              {b.address
                ? `Address ${digits(b.value >> 1)}, ${b.value & 1 ? "read" : "write"}`
                : `Byte ${digits(b.value)}`}
              {b.refused && ": not acknowledged"}
            </title>
          </g>
        );
      })}
    </g>
  );
}

function Marks({ w, x, height }: { w: Window; x: (ns: number) => number; height: number }) {
  return (
    <>
      {w.a !== undefined && w.b !== undefined && (
        <rect
          className={css.between}
          x={x(Math.min(w.a, w.b))}
          y={0}
          width={Math.max(x(Math.max(w.a, w.b)) - x(Math.min(w.a, w.b)), 0)}
          height={height}
        />
      )}
      {[w.a, w.b].map(
        (t, i) => t !== undefined && <path key={i} className={css.mark} d={`M${x(t).toFixed(1)} 0V${height}`} />,
      )}
    </>
  );
}
