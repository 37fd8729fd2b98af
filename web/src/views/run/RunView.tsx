import { useCallback, useState } from "react";
import type { Finding } from "../../api/client";
import { useMoment, useRun } from "../../work/useRun";
import { useBench } from "../../work/BenchContext";
import { Findings } from "../../parts/findings/Findings";
import { cellOf } from "../../work/cellOf";
import { placed, useBase } from "../../ui/places";
import { StepList } from "../../parts/steps/StepList";
import { LivePanel } from "./LivePanel";
import { MemoryMap } from "../../parts/memory/MemoryMap";
import { Registers } from "../../parts/memory/Registers";
import { Transport } from "./Transport";
import { Waveforms } from "./Waveforms";
import { usePlayer, type Player } from "./usePlayer";
import { useStops } from "./useStops";
import { useShortcut } from "../../ui/shortcuts";
import { Bare } from "../../ui/Bare";
import css from "./RunView.module.css";

const none: never[] = [];

/** Watch the bytes run: time, steps, registers, memory, waveforms, and a hand on it. */
export default function RunView() {
  const { module } = useBench();
  const { data: run } = useRun();
  const base = useBase();
  const steps = run?.program.steps ?? none;
  const { stops, toggle, search } = useStops(run?.id);
  const player = usePlayer(steps, stops);
  usePlayerKeys(player);
  const moment = useMoment(run?.id, run ? player.at + 1 : null);
  const [chosen, setChosen] = useState(0);
  if (!run) return <p className={css.wait}>Simulating…</p>;
  const step = steps[player.at];
  const { cols } = run.glass;
  const count = moment?.controllers.length ?? 1;
  const controller = moment?.controllers[Math.min(chosen, count - 1)];
  const read = run.reads.find((r) => r.step === player.at);
  return (
    <div className={css.view}>
      <Transport steps={steps} player={player} stops={stops} search={search} />
      <Found findings={run.findings} goTo={player.goTo} />
      <div className={css.middle}>
        <div className={css.steps}>
          <StepList
            compact
            program={run.program}
            step={player.at}
            choose={(s) => player.goTo(s ?? steps.length - 1)}
            stops={stops}
            onStop={toggle}
          />
        </div>
        <div className={css.inside}>
          <p className={css.meaning}>
            {step ? (
              <>
                <b>Step {step.index + 1}</b> {placed(step.meaning, step.places, base)}
                {read && <b> {read.meaning}</b>}
              </>
            ) : (
              "Power-up: the controller resets itself for 10 ms."
            )}
          </p>
          {count > 1 && (
            <div role="group" aria-label="Controller" className={css.controllers}>
              {["Behind E, rows 1–2", "Behind E2, rows 3–4"].map((name, i) => (
                <Bare key={name} aria-pressed={i === chosen} onClick={() => setChosen(i)}>
                  {name}
                </Bare>
              ))}
            </div>
          )}
          {controller && (
            <Registers
              controller={controller}
              waitUs={step?.waitUs ?? 10_000}
              vfd={module.display.technology === "vfd"}
            />
          )}
          {controller && (
            <MemoryMap
              controller={controller}
              current={cellOf(step, cols)}
              onCell={(cell) => {
                const writes = steps.findLast((s) => cellOf(s, cols) === cell);
                if (writes) player.goTo(writes.index);
              }}
            />
          )}
        </div>
        <div className={css.hand}>
          <LivePanel run={run} controllers={count} />
        </div>
      </div>
      <Waveforms run={run} at={player.at} goTo={player.goTo} />
    </div>
  );
}

/** The gravest finding in a line; all of them once it is opened. */
function Found({ findings, goTo }: { findings: Finding[]; goTo: (step: number) => void }) {
  const [first, ...more] = findings;
  if (!first) return null;
  return (
    <details className={css.found} data-severity={first.severity}>
      <summary>
        {first.what} {more.length > 0 && <b>and {more.length} more</b>}
      </summary>
      <Findings findings={findings} onStep={goTo} />
    </details>
  );
}

/** Steps back, plays and pauses, steps, from wherever the keyboard is. */
function usePlayerKeys({ move, toggle }: Player) {
  useShortcut(
    "run",
    useCallback((key) => (key === "F8" ? toggle() : move(key === "F7" ? -1 : 1)), [move, toggle]),
  );
}
