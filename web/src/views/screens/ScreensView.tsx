import { useDeferredValue } from "react";
import { useRun } from "../../work/useRun";
import { Findings } from "../../parts/findings/Findings";
import { StepCard } from "../../parts/steps/StepCard";
import { StepList } from "../../parts/steps/StepList";
import { useStep } from "../../work/StepContext";
import { ProgramBar } from "../../parts/steps/ProgramBar";
import { ScreenStrip } from "./ScreenStrip";
import css from "./ScreensView.module.css";

/** Compose: the screen's findings, and the bytes that show it. */
export default function ScreenView() {
  const { data } = useRun();
  const run = useDeferredValue(data); // the glass is drawn first
  const { step, choose } = useStep();
  if (!run) return <p className={css.wait}>Simulating…</p>;
  const chosen = step === null ? undefined : run.program.steps[step];
  return (
    <div className={css.view}>
      <ScreenStrip />
      <aside className={css.side}>
        <Findings findings={run.findings} onStep={choose} />
        {chosen && <StepCard step={chosen} program={run.program} read={run.reads.find((r) => r.step === step)} />}
      </aside>
      <section className={css.bytes} aria-label="Bytes">
        <ProgramBar run={run} />
        <StepList program={run.program} step={step} choose={choose} />
      </section>
    </div>
  );
}
