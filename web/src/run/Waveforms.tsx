import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { RunResult, Waves } from "../api/client";
import { wavesQuery } from "../api/queries";
import { time } from "../ui/numbers";
import css from "./Waveforms.module.css";

const ROW = 16;
const LABEL = 58;
const WIDTH = 1000;

interface Props {
  run: RunResult;
  at: number;
  goTo: (step: number) => void;
}

/** Levels of header pins and wire for the steps around the current one. */
export function Waveforms({ run, at, goTo }: Props) {
  const [reach, setReach] = useState(1);
  const steps = run.program.steps;
  const from = Math.max(0, at - reach);
  const to = Math.min(steps.length - 1, Math.max(at, 0) + reach);
  const { data: waves } = useQuery(wavesQuery(run.id, from, to));
  if (!waves) return <div className={css.waves} />;
  const span = Math.max(waves.endUs - waves.beginUs, 1);
  const x = (us: number) => LABEL + ((us - waves.beginUs) / span) * (WIDTH - LABEL);
  const height = waves.signals.length * ROW + 4;
  const shown = steps.slice(from, to + 1);
  return (
    <figure className={css.waves} aria-label="Waveforms">
      <figcaption>
        <h2>Header pins and wire</h2>
        <span>
          {time(waves.endUs - waves.beginUs)} from {(waves.beginUs / 1000).toFixed(3)} ms
        </span>
        {[0, 1, 4].map((n) => (
          <button key={n} type="button" aria-pressed={n === reach} onClick={() => setReach(n)}>
            {n === 0 ? "This step" : `${n} step${n > 1 ? "s" : ""} around`}
          </button>
        ))}
        <a href={`/api/runs/${run.id}/waves.vcd`} download>
          Value change dump
        </a>
      </figcaption>
      <svg viewBox={`0 0 ${WIDTH} ${height}`} preserveAspectRatio="none" style={{ height }}>
        {shown.map((s) => {
          const left = Math.max(x(s.startUs), LABEL);
          const right = Math.min(x(s.startUs + s.wireUs), WIDTH);
          return right > left ? (
            <g
              key={s.index}
              onClick={() => goTo(s.index)}
              className={css.step}
              data-current={s.index === at || undefined}
            >
              <title>{`Step ${s.index + 1}: ${s.meaning}`}</title>
              <rect x={left} y={0} width={right - left} height={height} />
            </g>
          ) : null;
        })}
        {waves.signals.map((s, i) => (
          <path
            key={s.name}
            className={css.line}
            d={trace(s, waves, x, i * ROW + 3)}
            data-wire={wire(s.name) || undefined}
          />
        ))}
      </svg>
      <div className={css.names} aria-hidden="true">
        {waves.signals.map((s, i) => (
          <span key={s.name} style={{ top: i * ROW }}>
            {s.name}
          </span>
        ))}
      </div>
    </figure>
  );
}

const wire = (name: string) => ["SDA", "SCL", "DATA", "CLOCK", "LATCH"].includes(name);

/** The path of a signal: high at the top of its row, low at the bottom. */
function trace(s: Waves["signals"][number], waves: Waves, x: (us: number) => number, top: number): string {
  let high = s.high;
  const y = () => top + (high ? 0 : ROW - 7);
  let d = `M${LABEL} ${y()}`;
  for (const turn of s.turns) {
    d += `H${x(turn).toFixed(2)}`;
    high = !high;
    d += `V${y()}`;
  }
  return `${d}H${x(waves.endUs).toFixed(2)}`;
}
