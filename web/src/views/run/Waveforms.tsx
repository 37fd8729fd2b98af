import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { RunResult, Step, Waves } from "../../api/client";
import { wavesQuery } from "../../api/queries";
import { cellOf } from "../../work/cellOf";
import { useStep } from "../../work/StepContext";
import { placed, useBase } from "../../ui/places";
import { hex, time } from "../../ui/numbers";
import { Bare } from "../../ui/Bare";
import css from "./Waveforms.module.css";

const ROW = 14;
const LABEL = 52; // of WIDTH, for the signals' names
const WIDTH = 1000;
const HEAD = 80; // of WIDTH, for what a step sends
const TICKS = 9; // at most

interface Props {
  run: RunResult;
  at: number;
  goTo: (step: number) => void;
}

/** Levels of header pins and wire for the steps around the current one. */
export function Waveforms({ run, at, goTo }: Props) {
  const { mark, setMark, cols } = useStep();
  const base = useBase();
  const [reach, setReach] = useState(1);
  const [cursor, setCursor] = useState<number | null>(null);
  const steps = run.program.steps;
  const from = Math.max(0, at - reach);
  const to = Math.min(steps.length - 1, Math.max(at, 0) + reach);
  const { data: waves } = useQuery(wavesQuery(run.id, from, to));
  if (!waves) return <div className={css.waves} />;
  const span = Math.max(waves.endUs - waves.beginUs, 1);
  const x = (us: number) => LABEL + ((us - waves.beginUs) / span) * (WIDTH - LABEL);
  const height = waves.signals.length * ROW + 4;
  const percent = (us: number) => `${x(us) / (WIDTH / 100)}%`;
  const shown = steps
    .slice(from, to + 1)
    .map((step) => ({
      step,
      begin: Math.max(step.startUs, waves.beginUs),
      end: Math.min(step.startUs + step.wireUs, waves.endUs),
    }))
    .filter(({ begin, end }) => end > begin)
    .map((band, i, all) => ({ ...band, room: x(all[i + 1]?.begin ?? waves.endUs) - x(band.begin) }));
  return (
    <figure className={css.waves} aria-label="Waveforms">
      <figcaption>
        <h2>Header pins and wire</h2>
        {[0, 1, 4].map((n) => (
          <Bare key={n} aria-pressed={n === reach} onClick={() => setReach(n)}>
            {n === 0 ? "This step" : `${n} step${n > 1 ? "s" : ""} around`}
          </Bare>
        ))}
        <span>{cursor === null ? `${time(span)} shown` : `${(cursor / 1000).toFixed(4)} ms`}</span>
        <a href={`/api/runs/${run.id}/waves.vcd`} download title="IEEE 1364: for general-purpose waveform viewers">
          Value change dump
        </a>
      </figcaption>
      <div
        className={css.plot}
        onPointerMove={(e) => {
          const box = e.currentTarget.getBoundingClientRect();
          const part = ((e.clientX - box.left) / box.width) * WIDTH;
          setCursor(part < LABEL ? null : waves.beginUs + ((part - LABEL) / (WIDTH - LABEL)) * span);
        }}
        onPointerLeave={() => {
          setCursor(null);
          setMark(null);
        }}
      >
        <div className={css.heads}>
          {shown.map(({ step, begin, room }) => (
            <Bare
              key={step.index}
              tabIndex={-1}
              data-current={step.index === at || undefined}
              style={
                x(begin) > WIDTH - HEAD ? { right: 0 } : { left: percent(begin), width: `${room / (WIDTH / 100)}%` }
              }
              title={placed(step.meaning, step.places, base)}
              onClick={() => goTo(step.index)}
            >
              {label(step)}
            </Bare>
          ))}
        </div>
        <svg viewBox={`0 0 ${WIDTH} ${height}`} preserveAspectRatio="none" style={{ height }}>
          {shown.map(({ step, begin, end }) => (
            <g
              key={step.index}
              onClick={() => goTo(step.index)}
              onPointerEnter={() => setMark(cellOf(step, cols))}
              className={css.step}
              data-current={step.index === at || undefined}
              data-marked={(mark !== null && cellOf(step, cols) === mark) || undefined}
            >
              <rect x={x(begin)} y={0} width={x(end) - x(begin)} height={height} />
            </g>
          ))}
          {ticks(waves).map((us) => (
            <path key={us} className={css.tick} d={`M${x(us).toFixed(2)} 0V${height}`} />
          ))}
          {waves.signals.map((s, i) => (
            <path
              key={s.name}
              className={css.line}
              d={trace(s, waves, x, i * ROW + 3)}
              data-wire={wire(s.name) || undefined}
            />
          ))}
          {cursor !== null && <path className={css.cursor} d={`M${x(cursor).toFixed(2)} 0V${height}`} />}
        </svg>
        <div className={css.names} aria-hidden="true">
          {waves.signals.map((s, i) => (
            <span key={s.name} style={{ top: i * ROW }}>
              {s.name}
            </span>
          ))}
        </div>
        <div className={css.times} aria-hidden="true">
          {ticks(waves).map((us) => (
            <span key={us} style={{ left: percent(us) }}>
              {(us / 1000).toFixed(span < 100 ? 4 : span < 10_000 ? 3 : 1)}
            </span>
          ))}
          <b>ms</b>
        </div>
      </div>
    </figure>
  );
}

const wire = (name: string) => ["SDA", "SCL", "DATA", "CLOCK", "LATCH"].includes(name);

/** What a step sends, in few characters. */
function label(s: Step): string {
  return s.value === undefined ? `${s.index + 1}` : `${s.index + 1} · ${s.rw ? "read" : hex(s.value)}`;
}

/** Round times within the picture: a step of 1, 2 or 5 times a power of ten. */
function ticks({ beginUs, endUs }: Waves): number[] {
  const rough = Math.max((endUs - beginUs) / TICKS, 0.01);
  const power = 10 ** Math.floor(Math.log10(rough));
  const step = power * ([1, 2, 5, 10].find((n) => n * power >= rough) ?? 10);
  const out: number[] = [];
  for (let t = Math.ceil(beginUs / step) * step; t < endUs - step / 4; t += step) out.push(t);
  return out;
}

/** The path of a signal: high at the top of its row, low at the bottom. */
function trace(s: Waves["signals"][number], waves: Waves, x: (us: number) => number, top: number): string {
  let high = s.high;
  const y = () => top + (high ? 0 : ROW - 6);
  let d = `M${LABEL} ${y()}`;
  for (const turn of s.turns) {
    d += `H${x(turn).toFixed(2)}`;
    high = !high;
    d += `V${y()}`;
  }
  return `${d}H${x(waves.endUs).toFixed(2)}`;
}
