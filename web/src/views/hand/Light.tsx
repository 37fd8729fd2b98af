import Button from "@mui/material/Button";
import { useState } from "react";
import { Link } from "react-router-dom";
import type { LightStep } from "../../api/client";
import { Glass } from "../../parts/glass/Glass";
import { Photograph } from "../../parts/photo/Photograph";
import { Trouble } from "../../parts/trouble/Trouble";
import { useAwake } from "../../ui/useAwake";
import { useBench } from "../../work/BenchContext";
import { Measured } from "../../parts/light/Measured";
import { useFirstLight, type FirstLight } from "../../work/useFirstLight";
import css from "./hand.module.css";

/** CSS pixels that a dot takes, so that a glass fits the hand. */
const pitchOf = (cols: number) =>
  Math.max(1, Math.min(3, Math.floor((4 * (Math.min(window.innerWidth, 560) - 64)) / (cols * 6)) / 4));

/** The first power-up, a step at a time: what to do, what one should see, and what it means when one sees something else. */
export default function Light() {
  const light = useFirstLight();
  const { steps, trouble, again, seen } = light;
  useAwake();
  const [looked, look] = useState<string>();
  if (!steps) return trouble ? <Trouble trouble={trouble} stale={false} again={again} /> : <p>Looking ahead…</p>;
  const found = steps.findIndex((s) => s.id === looked);
  const open = steps.findIndex((s) => !seen(s.id));
  const at = found >= 0 ? found : open;
  const step = steps[at];
  return (
    <section className={css.view} aria-label="First light">
      <progress
        value={steps.filter((s) => seen(s.id)).length}
        max={steps.length}
        aria-label="Done"
        style={{ width: "100%", height: 10 }}
      />
      {step ? (
        <Step key={step.id} step={step} light={light} nth={`${at + 1} of ${steps.length}`} />
      ) : (
        <p className={css.says} role="status">
          It is lit: every step is done.
        </p>
      )}
      <div className={css.acts}>
        <Button
          variant="outlined"
          color="inherit"
          disabled={at === 0}
          onClick={() => look(steps[(at < 0 ? steps.length : at) - 1]?.id)}
        >
          Back
        </Button>
        {step && seen(step.id) ? (
          <Button variant="outlined" onClick={() => light.set(step.id, undefined)}>
            Not done
          </Button>
        ) : (
          <Button
            variant="contained"
            disabled={!step}
            onClick={() => {
              if (step) light.lit(step);
              look(undefined);
            }}
          >
            I see it: done
          </Button>
        )}
        <Button
          variant="outlined"
          color="inherit"
          disabled={at < 0 || at + 1 >= steps.length}
          onClick={() => look(steps[at + 1]?.id)}
        >
          Ahead
        </Button>
      </div>
    </section>
  );
}

function Step({ step: s, light, nth }: { step: LightStep; light: FirstLight; nth: string }) {
  const { id, module } = useBench();
  const { index, of, seen } = light;
  return (
    <>
      <div className={css.now} data-now={s.id}>
        <p className={css.step}>
          {nth}
          {seen(s.id) ? ", done" : ""}: {s.title}
        </p>
        <p className={css.says} aria-live="polite">
          {s.do}
        </p>
        {s.caution && <p className={css.caution}>{s.caution}</p>}
        <p>{s.see}</p>
        <div className={css.pictures}>
          {s.glass.map((g, i) => (
            <Glass key={i} glass={g} tint={module.display.tint} pitch={pitchOf(g.cols)} name={s.title} />
          ))}
        </div>
        {s.measure && <Measured step={s} light={light} />}
        {s.glass.length > 0 && (
          <Photograph
            of={{ bench: of, module: index, screen: 0 }}
            name={`${s.title}, photographed`}
            title="Photograph it"
            among={[...s.glass, ...s.else.flatMap((e) => e.glass ?? [])]}
          >
            {({ is }) => (
              <p role="status">
                {is !== undefined && is < s.glass.length
                  ? "It looks as it should."
                  : is !== undefined
                    ? `It is what stands below as “${s.else.filter((e) => e.glass)[is - s.glass.length]?.says ?? "something else"}”.`
                    : "It is none of what is expected here: find the fault."}
              </p>
            )}
          </Photograph>
        )}
      </div>
      {s.else.length > 0 && (
        <details className={css.list}>
          <summary>I see something else</summary>
          {s.else.map((e, i) => (
            <div key={i} className={css.entry}>
              <b>{e.says}</b>
              {e.glass && (
                <Glass glass={e.glass} tint={module.display.tint} pitch={pitchOf(e.glass.cols) / 1.5} name={e.says} />
              )}
              <ul>
                {e.means.map((m, k) => (
                  <li key={k}>{m.says}</li>
                ))}
              </ul>
            </div>
          ))}
          <Button variant="outlined" component={Link} to={`/benches/${id}/${module.id}/faults`}>
            Find the fault
          </Button>
        </details>
      )}
    </>
  );
}
