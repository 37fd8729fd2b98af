import { useState } from "react";
import { useRun } from "../../work/useRun";
import { Findings } from "../../parts/findings/Findings";
import { useStep } from "../../work/StepContext";
import { CellMap } from "./CellMap";
import { LearnRom } from "./LearnRom";
import { LinkSettings } from "./LinkSettings";
import { ModuleSettings } from "./ModuleSettings";
import { RomChart } from "./RomChart";
import { Slots } from "./Slots";
import css from "./ModuleView.module.css";

/** What the module is, how it is joined, and what follows from both. */
export default function ModuleView() {
  const { data: run } = useRun();
  const { choose } = useStep();
  const [learns, setLearns] = useState(false);
  return (
    <div className={css.view}>
      <div className={css.settings}>
        <ModuleSettings run={run} />
      </div>
      {learns ? (
        <div className={css.wholly}>
          <LearnRom onClose={() => setLearns(false)} />
        </div>
      ) : (
        <>
          <div className={css.settings}>
            <LinkSettings run={run} />
            {run && run.findings.length > 0 && <Findings findings={run.findings} onStep={choose} />}
          </div>
          <div className={css.charts}>
            {run && <CellMap run={run} />}
            <Slots />
            <RomChart onLearn={() => setLearns(true)} />
          </div>
        </>
      )}
    </div>
  );
}
