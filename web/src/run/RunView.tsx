import { useMemo, useState } from "react";
import { useMoment, useRun } from "../app/useRun";
import { useBench } from "../bench/BenchContext";
import { Findings } from "../findings/Findings";
import { LivePanel } from "./LivePanel";
import { MemoryMap } from "./MemoryMap";
import { Registers } from "./Registers";
import { Transport } from "./Transport";
import { Waveforms } from "./Waveforms";
import { usePlayer } from "./usePlayer";
import css from "./RunView.module.css";

const none: never[] = [];

/** Watch the bytes run: time, registers, memory, waveforms, and a hand on it. */
export default function RunView() {
  const { module } = useBench();
  const { data: run } = useRun();
  const steps = run?.program.steps ?? none;
  const [marks, setMarks] = useState<ReadonlySet<number>>(new Set());
  const [stopAt, setStopAt] = useState("");
  const stops = useMemo(() => {
    const text = stopAt.trim().toLowerCase();
    const found = text ? steps.filter((s) => s.meaning.toLowerCase().includes(text)).map((s) => s.index) : [];
    return new Set([...marks, ...found]);
  }, [marks, stopAt, steps]);
  const player = usePlayer(steps, stops);
  const moment = useMoment(run?.id, run ? player.at + 1 : null);
  const [chosen, setChosen] = useState(0);
  if (!run) return <p className={css.wait}>Simulating…</p>;
  const step = steps[player.at];
  const { cols } = run.glass;
  const controller = moment?.controllers[Math.min(chosen, moment.controllers.length - 1)];
  return (
    <div className={css.view}>
      <Transport
        steps={steps}
        player={player}
        stopAt={stopAt}
        setStopAt={setStopAt}
        stops={stops}
        marked={marks.has(player.at)}
        toggleMark={() => {
          const next = new Set(marks);
          if (!next.delete(player.at)) next.add(player.at);
          setMarks(next);
        }}
      />
      <div className={css.middle}>
        <div className={css.side}>
          <p className={css.meaning}>
            {step ? (
              <>
                <b>Step {step.index + 1}</b> {step.meaning}
              </>
            ) : (
              "Power-up: the controller resets itself for 10 ms."
            )}
          </p>
          {moment && moment.controllers.length > 1 && (
            <label>
              Controller{" "}
              <select value={chosen} onChange={(e) => setChosen(Number(e.target.value))}>
                <option value={0}>1, rows 1–2</option>
                <option value={1}>2, rows 3–4</option>
              </select>
            </label>
          )}
          {controller && (
            <Registers controller={controller} waitUs={step?.waitUs ?? 10_000} vfd={module.technology === "vfd"} />
          )}
          {run.findings.length > 0 && <Findings findings={run.findings} onStep={player.goTo} />}
        </div>
        {controller ? (
          <MemoryMap
            controller={controller}
            current={step?.row === undefined ? null : step.row * cols + (step.col ?? 0)}
            onCell={(cell) => {
              const writes = steps.findLast((s) => s.row !== undefined && s.row * cols + (s.col ?? 0) === cell);
              if (writes) player.goTo(writes.index);
            }}
          />
        ) : (
          <div />
        )}
        <LivePanel />
      </div>
      <Waveforms run={run} at={player.at} goTo={player.goTo} />
    </div>
  );
}
