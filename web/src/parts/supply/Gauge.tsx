import type { Rail } from "../../api/client";
import { milliamperes } from "../../ui/numbers";
import css from "./Gauge.module.css";

const mA = (v: number) => `${milliamperes(v)} mA`;

/** What is drawn from a rail, as a tank that fills to its limit. */
export function Gauge({ rail }: { rail: Rail }) {
  const limit = rail.limitMA ?? 0;
  const share = limit ? Math.min(rail.totalMA / limit, 1) : 0;
  const over = limit > 0 && rail.totalMA > limit;
  const says = `${mA(rail.totalMA)} of ${limit ? mA(limit) : "a limit that is not known"}`;
  return (
    <div className={css.gauge} data-over={over || undefined}>
      <span>
        <b>{rail.name}</b> <small>on pin {rail.label}</small>
      </span>
      <svg viewBox="0 0 100 10" preserveAspectRatio="none" role="img" aria-label={`${rail.name}: ${says}`}>
        <rect width="100" height="10" className={css.room} />
        <rect width={100 * share} height="10" className={css.drawn} />
        {[25, 50, 75].map((x) => (
          <line key={x} x1={x} x2={x} y1="0" y2="10" className={css.mark} />
        ))}
      </svg>
      <span className={css.says}>{says}</span>
    </div>
  );
}
