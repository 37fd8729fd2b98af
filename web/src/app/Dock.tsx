import Button from "@mui/material/Button";
import { useEffect, useRef, useState } from "react";
import type { Finding, SupplyFacts } from "../api/client";
import { useBench, type BenchWork } from "../bench/BenchContext";
import { ModuleCard } from "../bench/ModuleCard";
import { CELL_COLS, GLASS_MARGIN } from "../glass/metrics";
import { TypingGlass } from "../glass/TypingGlass";
import { CellCard } from "../screen/CellCard";
import { useTyping } from "../screen/useTyping";
import { useStep } from "../steps/StepContext";
import { cellOf } from "../steps/cellOf";
import { useMoment, useRun } from "./useRun";
import css from "./Dock.module.css";

const MAX_PITCH = 5;

/** The selected module as it lies on the bench, with what it is and what stands at the cursor. */
export function Dock() {
  const { module, changeModule } = useBench();
  const { data: run, error } = useRun();
  const { step, choose, mark, setMark, extras, setExtras, typistRef } = useStep();
  const moment = useMoment(run?.id, step === null ? null : step + 1);
  const glass = moment?.glass ?? run?.glass;
  const typing = useTyping({ rows: glass?.rows ?? 2, cols: glass?.cols ?? 16 });
  const room = useRef<HTMLDivElement>(null);
  const width = useWidth(room);
  const cols = glass?.cols ?? 16;
  const fitting = (width - 96) / (cols * CELL_COLS + 2 * GLASS_MARGIN);
  const pitch = Math.min(MAX_PITCH, Math.max(2, Math.floor(fitting * 2) / 2)); // half pixels keep dots even

  useEffect(() => {
    typistRef.current = typing.type;
  }, [typistRef, typing.type]);

  // Typing leaves the step that was looked at: the glass shows the end again.
  const rows = module.screen.rows;
  useEffect(() => {
    if (step !== null) choose(null);
  }, [rows]); // eslint-disable-line react-hooks/exhaustive-deps

  return (
    <section className={css.dock} aria-label="Module">
      <ModuleCard run={run} />
      <div className={css.room} ref={room}>
        {error && (
          <p role="alert" className={css.error}>
            The module could not be simulated{run && ", so this is the last run"}: {error.message}
            {extras.live.length > 0 && (
              <Button size="small" onClick={() => setExtras({ ...extras, live: [] })}>
                Take back what was done by hand
              </Button>
            )}
          </p>
        )}
        {glass && run && (
          <div className={css.board}>
            <div className={css.top}>
              <Header />
              <Knob module={module} supply={run.supply} changeModule={changeModule} />
            </div>
            <div className={css.bezel}>
              <TypingGlass
                glass={glass}
                cells={step === null ? run.cells : []}
                over={run.over}
                differing={step === null ? differing(run.findings, glass.cols) : []}
                tint={module.tint}
                pitch={pitch}
                name={module.name || "the module"}
                marked={mark ?? (step === null ? null : cellOf(run.program.steps[step], glass.cols))}
                onPoint={setMark}
                typing={typing}
              />
            </div>
            <p className={css.caption} role="status">
              {step === null ? (
                module.screen.rows.length === 0 ? (
                  "Click the glass and type: its bytes appear below"
                ) : (
                  "Simulated from the bytes below"
                )
              ) : (
                <>
                  {step < 0 ? "As it is at power-up" : `As it is after step ${step + 1} of ${run.program.steps.length}`}
                  <Button size="small" onClick={() => choose(null)}>
                    Show the end (Esc)
                  </Button>
                </>
              )}
            </p>
          </div>
        )}
      </div>
      {run && <CellCard run={run} typing={typing} cols={cols} />}
    </section>
  );
}

type KnobProps = Pick<BenchWork, "module" | "changeModule"> & { supply: SupplyFacts };

/** The trimmer of an LCD's contrast, or a VFD's brightness. */
function Knob({ module, supply, changeModule }: KnobProps) {
  if (module.technology === "vfd") {
    const percent = 100 - 25 * (module.brightness ?? 0);
    return (
      <label className={css.knob}>
        Brightness
        <input
          type="range"
          min={25}
          max={100}
          step={25}
          value={percent}
          onChange={(e) => changeModule((m) => ({ ...m, brightness: 4 - Number(e.target.value) / 25 }), "brightness")}
        />
        <output>{percent} %</output>
      </label>
    );
  }
  const percent = Math.round(100 * supply.contrast);
  const below = supply.minMV > (module.supplyMV ?? 5000); // a low supply needs VO below ground
  return (
    <label className={css.knob} title="Voltage of the contrast input VO: the lower, the darker the dots">
      Contrast
      <input
        type="range"
        min={0}
        max={below ? 160 : 100}
        value={percent}
        onChange={(e) => changeModule((m) => ({ ...m, contrast: Number(e.target.value) / 100 }), "contrast")}
      />
      <output>VO {(supply.voMV / 1000).toFixed(2)} V</output>
    </label>
  );
}

/** Cells that a finding says differ from what was composed. */
function differing(findings: Finding[], cols: number) {
  return findings.flatMap((f) =>
    f.code === "glass.differs" && f.place
      ? Array.from({ length: Math.min(f.place.len, cols - f.place.col) }, (_, i) => ({
          row: f.place?.row ?? 0,
          col: (f.place?.col ?? 0) + i,
        }))
      : [],
  );
}

/** The 16 holes of the module's header, pin 1 square as on real boards. */
function Header() {
  return (
    <div className={css.header} aria-hidden="true">
      {Array.from({ length: 16 }, (_, i) => (
        <span key={i} />
      ))}
    </div>
  );
}

function useWidth(ref: React.RefObject<HTMLElement | null>): number {
  const [width, setWidth] = useState(640);
  useEffect(() => {
    const element = ref.current;
    if (!element) return;
    const observer = new ResizeObserver(([entry]) => entry && setWidth(entry.contentRect.width));
    observer.observe(element);
    return () => observer.disconnect();
  }, [ref]);
  return width;
}
