import Button from "@mui/material/Button";
import { useEffect, useRef } from "react";
import { Findings } from "../../parts/findings/Findings";
import { fittingPitch } from "../../parts/glass/metrics";
import { ScreenPicture } from "../../parts/glass/ScreenPicture";
import { TypingGlass } from "../../parts/glass/TypingGlass";
import { useRested } from "../../ui/useRested";
import { useWidth } from "../../ui/useWidth";
import { useBench } from "../../work/BenchContext";
import { useGlass } from "../../work/GlassContext";
import { useTyping } from "../../work/typing/useTyping";
import { useRun } from "../../work/useRun";
import css from "./hand.module.css";

const noFields: never[] = [];
const noPlaces: never[] = [];

/** The glass large, typed on by the telephone's own keyboard, and the screens to be swiped through. */
export default function Screens() {
  const { module, screen } = useBench();
  const { data: run, error } = useRun();
  const { typistRef } = useGlass();
  const glass = run?.glass;
  const typing = useTyping({ rows: glass?.rows ?? 2, cols: glass?.cols ?? 16 });
  const room = useRef<HTMLDivElement>(null);
  const width = useWidth(room);
  useEffect(() => {
    typistRef.current = typing.type;
  }, [typistRef, typing.type]);
  const cols = glass?.cols ?? 16;
  const pitch = fittingPitch(cols, width, 5);
  const { caret } = typing;
  const step = (by: number) => typing.moveTo({ row: caret.row, col: Math.max(caret.col + by, 0) }, false);
  return (
    <section className={css.view} aria-label="Screens">
      <Strip />
      <div ref={room}>
        {glass && (
          <TypingGlass
            glass={glass}
            cells={run.cells}
            over={run.over}
            differing={noPlaces}
            fields={screen.fields ?? noFields}
            tint={module.display.tint}
            pitch={pitch}
            name={module.name || "the module"}
            marked={null}
            onPoint={() => undefined}
            onPick={() => undefined}
            typing={typing}
          />
        )}
        {!glass && !error && <p>Simulating…</p>}
        {error && <p role="alert">The module could not be simulated: {error}</p>}
        {typing.refused && <p role="alert">{typing.refused}</p>}
      </div>
      <p className={css.step}>Touch the glass and type.</p>
      <div className={css.keys} role="group" aria-label="Keys for the glass">
        <Button variant="outlined" color="inherit" aria-label="A cell to the left" onClick={() => step(-1)}>
          ←
        </Button>
        <Button variant="outlined" color="inherit" aria-label="A cell to the right" onClick={() => step(1)}>
          →
        </Button>
        <Button variant="outlined" color="inherit" onClick={typing.enter}>
          Next row
        </Button>
        <Button variant="outlined" color="inherit" onClick={() => typing.press("Backspace")}>
          Delete
        </Button>
        <Button
          variant="outlined"
          color="inherit"
          aria-pressed={typing.mode === "insert"}
          onClick={() => typing.setMode(typing.mode === "insert" ? "overtype" : "insert")}
        >
          Insert
        </Button>
        <Button variant="outlined" color="inherit" onClick={() => typing.arrange("centre")}>
          Centre
        </Button>
      </div>
      {run && <Findings findings={run.findings} about="this screen" />}
    </section>
  );
}

/** The screens of the module, to be swiped through; a touch takes one up. */
function Strip() {
  const work = useBench();
  const { module, screen, selectScreen, setupOf } = useRested(work, work.module.id + work.screen.id);
  const list = useRef<HTMLDivElement>(null);
  useEffect(() => {
    list.current?.querySelector("[aria-current]")?.scrollIntoView({ block: "nearest", inline: "center" });
  }, [screen.id]);
  return (
    <div ref={list} className={css.strip} role="group" aria-label="Screens of this module">
      {module.screens.map((s, i) => (
        <button
          key={s.id}
          type="button"
          aria-current={s.id === screen.id || undefined}
          onClick={() => selectScreen(s.id)}
        >
          <ScreenPicture
            setup={setupOf(module, i)}
            tint={module.display.tint}
            name={s.name ?? s.id}
            width={104}
            most={1.3}
            className={css.glass}
          />
          {s.name ?? `Screen ${i + 1}`}
        </button>
      ))}
    </div>
  );
}
