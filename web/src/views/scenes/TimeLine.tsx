import { useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import type { Input, PlayEvent, Scene } from "../../api/plays";
import { drag } from "../../ui/drag";
import { useWidth } from "../../ui/useWidth";
import { Quiet } from "../../ui/Quiet";
import { inputTitle, sceneTitle, time } from "../../work/showWords";
import type { Part } from "../../work/usePlay";
import css from "./TimeLine.module.css";

interface Props {
  scenes: Scene[];
  inputs: Input[];
  part: Part | undefined;
  events: PlayEvent[];
  now: number;
  chosen: string | undefined;
  onChoose: (scene: string) => void;
  /** Changes after which time an end of a scene is taken. */
  onTime: (scene: string, end: number, afterMs: number) => void;
}

const TRACK = { scenes: 34, input: 18, load: 44 };
const zooms = [2_000, 5_000, 10_000, 20_000, 60_000, 300_000];

/** What was and what will be: scenes, what happened to the inputs, and how much of the time the wire was in use. */
export function TimeLine({ scenes, inputs, part, events, now, chosen, onChoose, onTime }: Props) {
  const [span, setSpan] = useState(20_000);
  const line = useRef<HTMLElement>(null);
  const width = Math.max(useWidth(line) - 28, 200);
  const from = Math.max(now - span * 0.6, 0);
  const x = (ms: number) => ((ms - from) / span) * width;
  const heard = inputs.filter((i) => events.some((e) => e.input === i.id));
  const height = TRACK.scenes + heard.length * TRACK.input + TRACK.load + 20;
  const blocks = blocksOf(part, now, from + span);
  const zoom = zooms.indexOf(span);
  const bars = loads(part, from, span);
  const busiest = Math.max(...bars.map((b) => b.share), 0);
  return (
    <section ref={line} className={css.line} aria-label="Time line">
      <header>
        <h2>Time line</h2>
        <p>
          {part && part.sent.length > 0
            ? `Wire in use: ${busiest > 0 && busiest < 0.01 ? "below 1" : `up to ${Math.round(busiest * 100)}`} % of each ${time(span / BARS)}`
            : "What comes if nothing is touched; drag the end of a scene to change its time"}
        </p>
        <span className={css.zoom}>
          <Quiet disabled={zoom <= 0} onClick={() => setSpan(zooms[zoom - 1] ?? span)}>
            Closer
          </Quiet>
          <span>{time(span)}</span>
          <Quiet disabled={zoom >= zooms.length - 1} onClick={() => setSpan(zooms[zoom + 1] ?? span)}>
            Further
          </Quiet>
        </span>
      </header>
      <svg width={width} height={height} className={css.drawing} role="group" aria-label="Scenes over time">
        {ticks(from, span).map((t) => (
          <g key={t} className={css.tick}>
            <path d={`M${x(t)} 0V${height - 16}`} />
            <text x={x(t) + 3} y={height - 4}>
              {t % 60_000 === 0 && t > 0 ? `${t / 60_000} min` : `${t / 1000} s`}
            </text>
          </g>
        ))}
        {blocks
          .filter((b) => b.to > from && b.at < from + span)
          .map((b) => {
            const scene = scenes[b.scene];
            const left = Math.max(x(b.at), 0);
            const right = Math.min(x(b.to), width);
            const timed = b.whole ? timedEnd(scene, b.to - b.at) : -1;
            return (
              <g key={b.at} data-ahead={b.ahead || undefined} className={css.block}>
                <rect
                  x={left}
                  y={3}
                  width={Math.max(right - left - 1, 1)}
                  height={TRACK.scenes - 8}
                  rx={4}
                  data-chosen={scene?.id === chosen || undefined}
                  data-off={scene?.off || undefined}
                  onClick={() => scene && onChoose(scene.id)}
                >
                  <title>
                    {sceneTitle(scene)} from {time(b.at)} to {time(b.to)}
                  </title>
                </rect>
                {right - left > 40 && (
                  <text x={left + 7} y={21} className={css.name}>
                    {sceneTitle(scene).slice(0, Math.floor((right - left - 14) / 7))}
                  </text>
                )}
                {timed >= 0 && scene && x(b.to) <= width && (
                  <Edge
                    x={x(b.to)}
                    ms={b.to - b.at}
                    perPixel={span / width}
                    name={sceneTitle(scene)}
                    onTime={(ms) => onTime(scene.id, timed, ms)}
                  />
                )}
              </g>
            );
          })}
        {heard.map((input, i) => (
          <g key={input.id} transform={`translate(0 ${TRACK.scenes + i * TRACK.input})`} className={css.events}>
            <path d={`M0 ${TRACK.input - 3}H${width}`} />
            {events
              .filter((e) => e.input === input.id && e.atMs >= from && e.atMs <= from + span)
              .map((e, k) => (
                <rect
                  key={k}
                  x={x(e.atMs) - 1}
                  y={e.value === 0 && !e.text ? 9 : 2}
                  width={2.5}
                  height={e.value === 0 && !e.text ? 6 : 13}
                >
                  <title>
                    {inputTitle(input)} at {time(e.atMs)}: {e.text ?? e.value ?? 0}
                  </title>
                </rect>
              ))}
            <text x={4} y={12}>
              {inputTitle(input)}
            </text>
          </g>
        ))}
        <g transform={`translate(0 ${TRACK.scenes + heard.length * TRACK.input})`} className={css.load}>
          <text x={4} y={12}>
            Wire
          </text>
          <path d={`M0 ${TRACK.load - 4}H${width}`} />
          {bars.map((b) => (
            <rect
              key={b.at}
              x={x(b.at)}
              y={(TRACK.load - 4) * (1 - b.share)}
              width={Math.max((b.width / span) * width - 0.5, 0.5)}
              height={(TRACK.load - 4) * b.share}
              data-late={b.late || undefined}
            >
              <title>
                {Math.round(b.share * 100)} % in use{b.late ? "; a change waited for the one before" : ""}
              </title>
            </rect>
          ))}
        </g>
        <path className={css.now} d={`M${x(now)} 0V${height - 14}`} />
      </svg>
    </section>
  );
}

interface Block {
  at: number;
  to: number;
  scene: number;
  ahead: boolean;
  /** It lasted its whole time. */
  whole: boolean;
}

/** The scenes that were and that will be, one after the other. */
function blocksOf(part: Part | undefined, now: number, end: number): Block[] {
  const began = [
    ...(part?.scenes ?? []).map((s) => ({ ...s, ahead: false })),
    ...(part?.forecast ?? []).filter((s) => s.atMs > now).map((s) => ({ ...s, ahead: true })),
  ];
  return began.map((s, i) => {
    const next = began[i + 1];
    return {
      at: s.atMs,
      to: next?.atMs ?? Math.max(end, now),
      scene: s.scene,
      ahead: s.ahead,
      whole: next !== undefined,
    };
  });
}

/** The end by time that a scene took which lasted so long; -1 for none. */
const timedEnd = (scene: Scene | undefined, ms: number): number =>
  (scene?.ends ?? []).findIndex((e) => !e.input && Math.abs((e.afterMs ?? 0) - ms) < 1.5);

interface EdgeProps {
  x: number;
  ms: number;
  perPixel: number;
  name: string;
  onTime: (ms: number) => void;
}

/** The end of a scene, which is dragged, or moved by arrow keys, to another time. */
function Edge({ x, ms, perPixel, name, onTime }: EdgeProps) {
  const [shown, setShown] = useState<number>();
  const round = (v: number) => Math.max(Math.round(v / 50) * 50, 50);
  const grip = (e: PointerEvent<SVGRectElement>) => {
    const to = (ev: { clientX: number }) => round(ms + (ev.clientX - e.clientX) * perPixel);
    drag(e, {
      move: (ev) => setShown(to(ev)),
      end: (ev) => {
        if (ev.clientX !== e.clientX) onTime(to(ev));
        setShown(undefined);
      },
      cancel: () => setShown(undefined),
    });
  };
  const key = (e: KeyboardEvent) => {
    const by = { ArrowLeft: -100, ArrowRight: 100, ArrowDown: -1000, ArrowUp: 1000 }[e.key];
    if (by === undefined) return;
    e.preventDefault();
    onTime(round(ms + by));
  };
  return (
    <>
      {shown !== undefined && (
        <text className={css.shown} x={x + (shown - ms) / perPixel + 6} y={21}>
          {time(shown)}
        </text>
      )}
      <rect
        className={css.edge}
        x={x - 5 + (shown === undefined ? 0 : (shown - ms) / perPixel)}
        y={2}
        width={9}
        height={TRACK.scenes - 6}
        role="slider"
        tabIndex={0}
        aria-label={`Time of ${name}`}
        aria-valuemin={50}
        aria-valuemax={86_400_000}
        aria-valuenow={Math.round(shown ?? ms)}
        aria-valuetext={time(shown ?? ms)}
        onKeyDown={key}
        onPointerDown={grip}
      />
    </>
  );
}

/** Where seconds are marked. */
function ticks(from: number, span: number): number[] {
  const step = span / 10;
  const out = [];
  for (let t = Math.ceil(from / step) * step; t <= from + span; t += step) out.push(t);
  return out;
}

const BARS = 200;

/** How much of each bit of time the wire was in use. */
function loads(part: Part | undefined, from: number, span: number) {
  const width = span / BARS;
  const first = Math.floor(from / width);
  const used = new Map<number, { wire: number; late: boolean }>();
  for (const s of part?.sent ?? []) {
    if (s.at + s.busy < from || s.at > from + span) continue;
    const share = s.busy > 0 ? s.wire / s.busy : 0;
    for (let i = Math.floor(s.at / width); i <= Math.floor((s.at + s.busy) / width); i++) {
      const within = Math.min(s.at + s.busy, (i + 1) * width) - Math.max(s.at, i * width);
      const u = used.get(i) ?? { wire: 0, late: false };
      used.set(i, { wire: u.wire + within * share, late: u.late || s.waited > 0.5 });
    }
  }
  return [...used]
    .filter(([i]) => i >= first)
    .map(([i, u]) => ({ at: i * width, width, share: Math.min(u.wire / width, 1), late: u.late }));
}
