import Button from "@mui/material/Button";
import { useState } from "react";
import { Link } from "react-router-dom";
import type { Work as WorkStep, WiringResult } from "../../api/client";
import { Trouble } from "../../parts/trouble/Trouble";
import { Tick } from "../../ui/Tick";
import { useAwake } from "../../ui/useAwake";
import { useBench } from "../../work/BenchContext";
import { useSteady } from "../../work/useSteady";
import { useWiring } from "../../work/useWiring";
import { useTableEdit } from "../../work/useTableEdit";
import { WireEnds } from "./WireEnds";
import css from "./hand.module.css";

/** The work beside the board: one thing at a time, its ends drawn close up, ticked off by thumb. */
export default function Work() {
  const { data: result, trouble, again } = useSteady(useWiring());
  if (!result) return trouble ? <Trouble trouble={trouble} stale={false} again={again} /> : <p>Laying the table…</p>;
  return <List result={result} />;
}

function List({ result }: { result: WiringResult }) {
  const { id, module } = useBench();
  const edit = useTableEdit(result);
  const awake = useAwake();
  const { work } = result;
  const open = work.findIndex((w) => !w.done);
  const [looked, look] = useState<string>(); // undefined: at the next that is open
  const found = work.findIndex((w) => w.id === looked);
  const at = found >= 0 ? found : open;
  const step = work[at];
  const done = work.filter((w) => w.done).length;
  if (!result.laid)
    return (
      <section className={css.view}>
        <p className={css.note}>
          {work.length > 0
            ? "Nothing lies on the table yet; this is what would be laid."
            : "There is nothing to wire yet."}
        </p>
        {result.why && <p role="alert">There is no plan: {result.why}.</p>}
        {result.plan && (
          <Button className={css.big} variant="contained" onClick={edit.take}>
            Lay it so
          </Button>
        )}
      </section>
    );
  const tick = (w: WorkStep, is: boolean) => {
    edit.tick(w.id, is);
    look(undefined);
  };
  return (
    <section className={css.view} aria-label="Order of the work">
      <progress value={done} max={work.length} aria-label="Done" style={{ width: "100%", height: 10 }} />
      {step ? (
        <div className={css.now} data-now={step.id}>
          <p className={css.step}>
            {at + 1} of {work.length}
            {step.wire !== undefined && `, wire ${step.wire}`}
            {step.done && ", done"}
          </p>
          <p className={css.says} aria-live="polite">
            {step.says}
          </p>
          {step.caution && <p className={css.caution}>{step.caution}</p>}
          {step.wire !== undefined && <WireEnds result={result} number={step.wire} />}
        </div>
      ) : (
        <div className={css.now}>
          <p className={css.says} aria-live="polite">
            {work.length > 0 ? `All ${work.length} done.` : "There is nothing to wire."}
          </p>
          <Button className={css.big} variant="contained" component={Link} to={`/benches/${id}/${module.id}/light`}>
            Go on to first light
          </Button>
        </div>
      )}
      <details className={css.list}>
        <summary>
          All of it: {done} of {work.length} done
        </summary>
        <ol>
          {work.map((w) => (
            <li key={w.id}>
              <label>
                <Tick checked={w.done ?? false} onChange={(e) => tick(w, e.target.checked)} />
                <span>{w.says}</span>
              </label>
            </li>
          ))}
        </ol>
      </details>
      {!awake && <p className={css.step}>This browser lets the screen fall asleep here (over HTTPS it need not).</p>}
      {work.length > 0 && (
        <div className={css.acts}>
          <Button
            variant="outlined"
            color="inherit"
            disabled={at === 0}
            onClick={() => look(work[(at < 0 ? work.length : at) - 1]?.id)}
          >
            Back
          </Button>
          {step?.done ? (
            <Button variant="outlined" onClick={() => tick(step, false)}>
              Not done
            </Button>
          ) : (
            <Button variant="contained" disabled={!step} onClick={() => step && tick(step, true)}>
              Done, next
            </Button>
          )}
          <Button
            variant="outlined"
            color="inherit"
            disabled={at < 0 || at + 1 >= work.length}
            onClick={() => look(work[at + 1]?.id)}
          >
            Ahead
          </Button>
        </div>
      )}
    </section>
  );
}
