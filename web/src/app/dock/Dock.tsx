import Button from "@mui/material/Button";
import { useCallback, useEffect, useRef, useState } from "react";
import type { Finding, Module, RunResult, SupplyFacts } from "../../api/client";
import { useBench, type BenchWork } from "../../work/BenchContext";
import { ModuleCard } from "./ModuleCard";
import { CELL_COLS, GLASS_MARGIN } from "../../parts/glass/metrics";
import { TypingGlass } from "../../parts/glass/TypingGlass";
import { CellCard } from "./CellCard";
import { useTyping } from "../../work/typing/useTyping";
import { useStep } from "../../work/StepContext";
import { useExtras } from "../../work/ExtrasContext";
import { useGlass } from "../../work/GlassContext";
import { cellOf } from "../../work/cellOf";
import { useMoment, useRun } from "../../work/useRun";
import { Icon } from "../../ui/Icon";
import { useWidth } from "../../ui/useWidth";
import { useShortcut } from "../../ui/shortcuts";
import { Bare } from "../../ui/Bare";
import css from "./Dock.module.css";

const MAX_PITCH = 5;

const noFields: never[] = [];

/** The selected module as it lies on the bench, with what it is and what stands at the cursor; or folded to a strip. */
export function Dock({ view }: { view: string }) {
  const { module, screen, changeModule } = useBench();
  const { data: run, error, unreachable } = useRun();
  const [folded, fold] = useFold(view);
  const { step, choose, mark, setMark } = useStep();
  const { extras, setExtras } = useExtras();
  const { typistRef, pickRef } = useGlass();
  const moment = useMoment(run?.id, step === null ? null : step + 1);
  const glass = moment?.glass ?? run?.glass;
  const typing = useTyping({ rows: glass?.rows ?? 2, cols: glass?.cols ?? 16 });
  const room = useRef<HTMLDivElement>(null);
  const width = useWidth(room);
  const cols = glass?.cols ?? 16;
  const fitting = (width - 96) / (cols * CELL_COLS + 2 * GLASS_MARGIN);
  const even = Math.floor(fitting * 2) / 2; // half pixels keep dots even
  const pitch = folded ? stripPitch(glass) : Math.min(MAX_PITCH, Math.max(2, even));

  useEffect(() => {
    typistRef.current = typing.type;
  }, [typistRef, typing.type]);

  // Typing leaves the step that was looked at: the glass shows the end again.
  const { rows } = screen;
  useEffect(() => {
    if (step !== null) choose(null);
  }, [rows]); // eslint-disable-line react-hooks/exhaustive-deps

  const toggle = (
    <Bare
      className={css.fold}
      aria-expanded={!folded}
      title={folded ? "Unfold the module (Alt+↓)" : "Fold the module to a strip (Alt+↑)"}
      onClick={() => fold(!folded)}
    >
      <Icon name={folded ? "unfold" : "fold"} size={18} />
      <span className="unseen">The module on the dock</span>
    </Bare>
  );
  const typingGlass = glass && run && (
    <TypingGlass
      glass={glass}
      cells={step === null ? run.cells : []}
      over={folded ? [] : run.over}
      differing={step === null ? differing(run.findings, glass.cols) : []}
      fields={screen.fields ?? noFields}
      tint={module.display.tint}
      pitch={pitch}
      name={module.name || "the module"}
      marked={mark ?? (step === null ? null : cellOf(run.program.steps[step], glass.cols))}
      onPoint={setMark}
      onPick={(cell) => pickRef.current(cell)}
      typing={typing}
    />
  );
  const caption = run && (
    <p className={css.caption} role="status">
      {step === null ? (
        unreachable ? (
          "The program cannot be reached: this is its last glass; what you type is kept"
        ) : rows.length === 0 ? (
          "Click the glass and type: its bytes appear below"
        ) : (
          !folded && "Simulated from the bytes below"
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
  );
  const refused = error && (
    <p role="alert" className={css.error}>
      The module could not be simulated{run && ", so this is the last run"}: {error}
      {extras.live.length > 0 && (
        <Button size="small" onClick={() => setExtras({ ...extras, live: [] })}>
          Take back what was done by hand
        </Button>
      )}
    </p>
  );
  const undone = typing.refused && (
    <p role="alert" className={css.error}>
      {typing.refused}
    </p>
  );
  if (folded) {
    return (
      <section className={css.strip} aria-label="Module">
        <h2>{module.name || "Unnamed module"}</h2>
        <div className={css.bezel}>{typingGlass}</div>
        {caption}
        {refused}
        {undone}
        {toggle}
      </section>
    );
  }
  return (
    <section className={css.dock} aria-label="Module">
      <ModuleCard run={run} />
      <div className={css.room} ref={room}>
        {refused}
        {undone}
        {!run && !error && <p>{unreachable ? "The program cannot be reached; it is asked again." : "Simulating…"}</p>}
        {glass && run && (
          <div className={css.board}>
            <div className={css.top}>
              <Header />
              <Knob module={module} supply={run.supply} changeModule={changeModule} />
            </div>
            <div className={css.bezel}>{typingGlass}</div>
            {caption}
          </div>
        )}
      </div>
      {run && <CellCard run={run} typing={typing} cols={cols} />}
      {toggle}
    </section>
  );
}

/** Pixels a dot takes on the strip: four rows of text are as high as two. */
const stripPitch = (glass: RunResult["glass"] | undefined) => ((glass?.rows ?? 2) > 2 ? 1.5 : 2);

/** Whether the dock is folded in a view, which is remembered for it; the bench, which shows every glass, begins so. */
function useFold(view: string): [boolean, (folded: boolean) => void] {
  const key = `slatebell-fold-${view}`;
  const [folded, setFolded] = useState(
    () =>
      (localStorage.getItem(key) ??
        (["bench", "bus", "wiring", "glyphs", "scenes", "code", "faults", "log", "recording"].includes(view)
          ? "yes"
          : "no")) === "yes",
  );
  const fold = useCallback(
    (next: boolean) => {
      setFolded(next);
      localStorage.setItem(key, next ? "yes" : "no");
    },
    [key],
  );
  useShortcut(
    "fold",
    useCallback((key) => fold(key === "↑"), [fold]),
  );
  return [folded, fold];
}

type KnobProps = Pick<BenchWork, "module" | "changeModule"> & { supply: SupplyFacts };

/** The trimmer of an LCD's contrast, or a VFD's brightness. */
function Knob({ module, supply, changeModule }: KnobProps) {
  const { display } = module;
  const set = (next: Partial<NonNullable<Module["display"]["supply"]>>, tag: string) =>
    changeModule((m) => {
      const fitting = m.fitting?.turn === undefined ? m.fitting : { ...m.fitting, turn: undefined }; // the knob follows
      return { ...m, fitting, display: { ...m.display, supply: { ...m.display.supply, ...next } } };
    }, tag);
  if (display.technology === "vfd") {
    const percent = 100 - 25 * (display.supply?.brightness ?? 0);
    return (
      <label className={css.knob}>
        Brightness
        <input
          type="range"
          min={25}
          max={100}
          step={25}
          value={percent}
          onChange={(e) => set({ brightness: 4 - Number(e.target.value) / 25 }, "brightness")}
        />
        <output>{percent} %</output>
      </label>
    );
  }
  const percent = Math.round(100 * supply.contrast);
  const below = supply.minMV > (display.supply?.mV ?? 5000); // a low supply needs VO below ground
  return (
    <label className={css.knob} title="Voltage of the contrast input VO: the lower, the darker the dots">
      Contrast
      <input
        type="range"
        min={0}
        max={below ? 160 : 100}
        value={percent}
        onChange={(e) => set({ contrast: Number(e.target.value) / 100 }, "contrast")}
      />
      <output>VO {(supply.voMV / 1000).toFixed(2)} V</output>
    </label>
  );
}

/** Cells that a finding says differ from what was composed. */
function differing(findings: Finding[], cols: number) {
  return findings.flatMap((f) =>
    f.code === "glass.differs" && f.cells
      ? Array.from({ length: Math.min(f.cells.len, cols - f.cells.col) }, (_, i) => ({
          row: f.cells?.row ?? 0,
          col: (f.cells?.col ?? 0) + i,
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
