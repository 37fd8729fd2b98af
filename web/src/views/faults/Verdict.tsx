import Button from "@mui/material/Button";
import { useEffect, useRef } from "react";
import type { RoundState } from "../../api/faults";
import { Glass } from "../../parts/glass/Glass";
import { CELL_COLS } from "../../parts/glass/metrics";
import { groundOf } from "../../parts/glass/paint";
import { tintOf } from "../../parts/glass/tints";
import css from "./Practice.module.css";

interface Props {
  verdict: NonNullable<RoundState["verdict"]>;
  tint: string | undefined;
  onLeave: () => void;
}

/** How a round ended: what was hidden, the minutes against those of the best plan, and that plan. */
export function Verdict({ verdict: v, tint, onLeave }: Props) {
  const again = useRef<HTMLButtonElement>(null);
  useEffect(() => again.current?.focus(), []);
  const most = Math.max(v.minutes, v.best, 0.1);
  return (
    <section className={css.verdict} aria-label="Verdict" data-right={v.right || undefined}>
      <h2>{v.right ? `Found: ${v.score} of 100` : "Not that one"}</h2>
      {v.hidden.map((h, i) => (
        <p key={h.id}>
          {h.what} <small>{v.fix[i]}</small>
        </p>
      ))}
      <dl className={css.bars}>
        <dt>You</dt>
        <dd>
          <i style={{ width: `${(100 * v.minutes) / most}%` }} />
          <b>{v.minutes.toFixed(1)} min</b>
        </dd>
        <dt>Best plan</dt>
        <dd>
          <i style={{ width: `${(100 * v.best) / most}%` }} />
          <b>{v.best.toFixed(1)} min</b>
        </dd>
      </dl>
      <h3>The best plan</h3>
      <ol className={css.done}>
        {v.plan.length === 0 && <li>Nothing: what the glass shows is enough.</li>}
        {v.plan.map((s) => (
          <li key={s.id}>
            <b>{s.title}</b>
            {s.glass ? (
              <span className={css.glass} style={{ background: groundOf(s.glass, tintOf(tint)) }}>
                <Glass
                  glass={s.glass}
                  tint={tint}
                  pitch={Math.max(0.8, Math.min(1.6, 170 / (s.glass.cols * CELL_COLS)))}
                  name={s.title}
                />
              </span>
            ) : (
              <span>{s.says}</span>
            )}
          </li>
        ))}
      </ol>
      <Button ref={again} variant="contained" onClick={onLeave}>
        Another round
      </Button>
    </section>
  );
}
