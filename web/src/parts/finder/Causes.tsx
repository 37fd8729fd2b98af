import type { FindResult, LikelyCause } from "../../api/faults";
import { Glass } from "../glass/Glass";
import { CELL_COLS } from "../glass/metrics";
import { groundOf } from "../glass/paint";
import { tintOf } from "../glass/tints";
import { percent } from "./NextTest";
import { Term } from "../../ui/Term";
import { Bare } from "../../ui/Bare";
import css from "./Causes.module.css";

interface Props {
  found: FindResult;
  tint: string | undefined;
  chosen: string | undefined;
  onChoose: (id: string) => void;
}

/** What may be wrong, the likeliest first, each with what it would show. */
export function Causes({ found, tint, chosen, onChoose }: Props) {
  return (
    <section aria-label="What may be wrong">
      <h2 className={css.title}>
        What may be <Term of="cause">wrong</Term> <small>{found.cases.toLocaleString("en")} cases were simulated</small>
      </h2>
      <ol className={css.list}>
        {found.causes.map((c) => (
          <Cause key={c.id} cause={c} tint={tint} chosen={c.id === chosen} onChoose={onChoose} />
        ))}
      </ol>
    </section>
  );
}

interface CauseProps {
  cause: LikelyCause;
  tint: string | undefined;
  chosen: boolean;
  onChoose: (id: string) => void;
}

function Cause({ cause: c, tint, chosen, onChoose }: CauseProps) {
  const pitch = Math.max(0.6, Math.min(1, 110 / (c.glass.cols * CELL_COLS)));
  return (
    <li data-cause={c.id}>
      <Bare className={css.cause} aria-pressed={chosen} onClick={() => onChoose(c.id)}>
        <span className={css.share}>
          <b>{percent(c.share)}</b>
          <i style={{ width: `${Math.max(2, 100 * c.share)}%` }} />
        </span>
        <span className={css.what}>
          {c.what}
          <small>{c.why}</small>
        </span>
        <span className={css.mini} style={{ background: groundOf(c.glass, tintOf(tint)) }}>
          <Glass glass={c.glass} tint={tint} pitch={pitch} name={c.what} />
        </span>
      </Bare>
    </li>
  );
}
