import type { Plan } from "../../api/client";
import css from "./Levels.module.css";

const volt = (mV: number) => (mV / 1000).toFixed(2);
const SPAN = 5500;
const x = (mV: number) => (Math.min(Math.max(mV, 0), SPAN) / SPAN) * 200;

/** Every output on its input: what is given, what is asked for, and the margin between. */
export function Levels({ plan }: { plan: Plan }) {
  if (plan.levels.length === 0) return null;
  return (
    <section aria-label="Levels">
      <h2>
        Levels <small>given against asked for, in volts</small>
      </h2>
      <div className={css.levels}>
        {plan.levels.map((l) => (
          <article
            key={`${l.to} ${l.lines} ${l.from}`}
            title={l.source}
            data-out={l.marginHighMV < 0 || l.marginLowMV < 0 || undefined}
          >
            <span className={css.who}>
              <b>{l.to}</b> <small>{l.lines}</small>
            </span>
            <svg
              viewBox="0 0 200 26"
              role="img"
              aria-label={`High: ${volt(l.highMV)} V given, ${volt(l.needMV)} V asked for. Low: ${volt(l.lowMV)} V given, ${volt(l.mostMV)} V allowed.`}
            >
              <rect className={css.zone} x="0" y="6" width={x(l.mostMV)} height="14" />
              <rect className={css.zone} x={x(l.needMV)} y="6" width={200 - x(l.needMV)} height="14" />
              <path className={css.rule} d="M0 13H200" />
              <circle cx={Math.max(x(l.lowMV), 4)} cy="13" r="4" data-out={l.marginLowMV < 0 || undefined} />
              <circle cx={x(l.highMV)} cy="13" r="4" data-out={l.marginHighMV < 0 || undefined} />
            </svg>
            <span className={css.margin}>
              high {volt(l.highMV)} of {volt(l.needMV)}, <b>{l.marginHighMV < 0 ? "lacks" : "margin"}</b>{" "}
              {volt(Math.abs(l.marginHighMV))}
            </span>
          </article>
        ))}
      </div>
    </section>
  );
}
