import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Schemas, Setup } from "../../api/client";
import { glassQuery } from "../../api/glasses";
import { transitionQuery, type Strategy } from "../../api/screens";
import { Glass } from "../../parts/glass/Glass";
import { CELL_COLS, rowPitch } from "../../parts/glass/metrics";
import { groundOf } from "../../parts/glass/paint";
import { tintOf } from "../../parts/glass/tints";
import { StepList } from "../../parts/steps/StepList";
import { Choice } from "../../ui/Choice";
import { useRested } from "../../ui/useRested";
import { useBench } from "../../work/BenchContext";
import { Trouble } from "../../parts/trouble/Trouble";
import { useSteady } from "../../work/useSteady";
import { Check } from "../../ui/Check";
import { Bare } from "../../ui/Bare";
import css from "./ChangesPanel.module.css";

type Result = Schemas["StrategyResult"];

const strategies: Record<Strategy, { title: string; what: string }> = {
  cheapest: { title: "Cheapest", what: "no sequence takes less time" },
  steady: { title: "Cheapest, no clear", what: "the least time without a blink" },
  changed: { title: "What changed", what: "only cells that differ, run by run" },
  pad: { title: "Padded", what: "rows, with spaces to the old length" },
  clear: { title: "Clear and reprint", what: "all of it again after a clear" },
};

/** How the screen that is composed follows another one: what is left over, and what each way costs and looks like. */
export default function ChangesPanel() {
  const work = useBench();
  const { module, screen } = work;
  const { screens } = module;
  const to = screens.findIndex((s) => s.id === screen.id);
  const [chosen, setChosen] = useState<string>();
  const named = screens.findIndex((s) => s.id === chosen);
  const from = named >= 0 && named !== to ? named : to > 0 ? to - 1 : screens.length - 1;
  const [shift, setShift] = useState(false);
  const rested = useRested(work, [module.id, screen.id, from].join());
  if (screens.length < 2) {
    return (
      <p className={css.none}>
        The module has one screen. With a second one, you see here what is left over when one is written over the other,
        and the fewest bytes that turn it into the other.
      </p>
    );
  }
  return (
    <section className={css.panel} aria-label="Changes">
      <div className={css.between}>
        <div className={css.pick}>
          <Choice label="After" value={screens[from]?.id ?? ""} onChange={setChosen}>
            {screens.map((s, i) =>
              i === to ? null : (
                <option key={s.id} value={s.id}>
                  {i + 1} {s.name || "unnamed"}
                </option>
              ),
            )}
          </Choice>
        </div>
        <Check checked={shift} onChange={(e) => setShift(e.target.checked)}>
          the cheapest may move the glass over its memory
        </Check>
      </div>
      <Transition
        key={`${module.id} ${from} ${to}`}
        from={rested.setupOf(rested.module, from)}
        to={rested.setupOf(rested.module, to)}
        shift={shift}
      />
    </section>
  );
}

function Transition({ from, to, shift }: { from: Setup; to: Setup; shift: boolean }) {
  const { module, changeModule } = useBench();
  const { data, trouble, again } = useSteady(useQuery(transitionQuery(from, to, shift)));
  const { data: before } = useQuery(glassQuery(from));
  const { data: after } = useQuery(glassQuery(to));
  const [looked, setLooked] = useState<Strategy>("cheapest");
  const [step, setStep] = useState<number | null>(null);
  const troubled = <Trouble trouble={trouble} stale={data !== undefined} again={again} />;
  if (!data && trouble) return troubled;
  if (!data || !before || !after) return <p>Simulating…</p>;
  const left = new Set(data.left);
  const changed = new Set(data.changed);
  const longest = Math.max(...data.strategies.map((s) => s.cost.doneUs), 1);
  const shown = data.strategies.find((s) => s.strategy === looked) ?? data.strategies[0];
  const kept = data.left.length;
  return (
    <>
      {troubled}
      <div className={css.glasses}>
        <Tinted glass={before.glass} tint={module.display.tint} name="Before" marks={left} kind="going" />
        <span aria-hidden="true" className={css.arrow} />
        <Tinted
          glass={data.over}
          tint={module.display.tint}
          name="Written over, nothing cleared"
          marks={left}
          kind="left"
        />
        <Tinted
          glass={after.glass}
          tint={module.display.tint}
          name="Wanted; what differs is underlined"
          marks={changed}
          kind="changed"
        />
      </div>
      <p className={css.said} role="status" data-left={kept > 0 || undefined}>
        {kept > 0
          ? `Written over without a clear, ${kept} ${kept === 1 ? "cell keeps an old character" : "cells keep old characters"}.`
          : "Written over without a clear, nothing old is left."}{" "}
        {data.changed.length} of {before.glass.cols * before.glass.rows} cells differ.
      </p>
      <ol className={css.strategies} aria-label="Ways to change the screen">
        {data.strategies.map((s) => (
          <li key={s.strategy} data-looked={s.strategy === shown?.strategy || undefined}>
            <Bare
              className={css.strategy}
              aria-pressed={s.strategy === shown?.strategy}
              onClick={() => {
                setLooked(s.strategy);
                setStep(null);
              }}
            >
              <b>{strategies[s.strategy].title}</b>
              <span>{strategies[s.strategy].what}</span>
            </Bare>
            <Race result={s} longest={longest} />
            <span className={css.figures}>
              <b>{milliseconds(s.cost.doneUs)}</b>, {s.cost.words}{" "}
              {module.link.kind.startsWith("parallel") ? "pulses of E" : "bytes"}
              <span data-blinks={s.wrongUs > 0 || undefined}>
                {s.cost.operations} operations, {s.wrongUs > 0 ? `blinks for ${milliseconds(s.wrongUs)}` : "no blink"}
              </span>
            </span>
            <Button
              size="small"
              variant={module.changes === s.strategy ? "contained" : "outlined"}
              aria-pressed={module.changes === s.strategy}
              onClick={() =>
                changeModule((m) => ({ ...m, changes: m.changes === s.strategy ? undefined : s.strategy }))
              }
            >
              {module.changes === s.strategy ? "In use" : "Use it"}
            </Button>
          </li>
        ))}
      </ol>
      {shown && shown.program.steps.length > 0 && (
        <div className={css.steps}>
          <StepList program={shown.program} step={step} choose={setStep} />
        </div>
      )}
    </>
  );
}

const milliseconds = (us: number): string => `${(us / 1000).toFixed(us < 10_000 ? 2 : 1)} ms`;

/** A way's steps on a common axis of time: instructions, characters, glyphs; a long one is mostly waiting. */
function Race({ result, longest }: { result: Result; longest: number }) {
  const { steps } = result.program;
  const x = (us: number) => (us / longest) * 1000;
  const total = result.cost.doneUs;
  return (
    <svg
      className={css.race}
      viewBox="0 0 1000 26"
      preserveAspectRatio="none"
      role="img"
      aria-label={`${strategies[result.strategy].title} takes ${milliseconds(total)}`}
    >
      <rect className={css.track} x={0} y={4} width={1000} height={18} />
      {result.wrongUs > 0 && <rect className={css.wrong} x={0} y={22} width={x(total)} height={4} />}
      {steps.map((s, i) => {
        const end = steps[i + 1]?.startUs ?? total;
        return (
          <rect
            key={i}
            data-kind={s.rs ? "data" : s.waitUs > 1000 ? "long" : "instruction"}
            x={x(s.startUs)}
            y={4}
            width={Math.max(x(end - s.startUs) - 1.5, 0.8)}
            height={18}
          />
        );
      })}
    </svg>
  );
}

interface TintedProps {
  glass: Schemas["Glass"];
  tint: string | undefined;
  name: string;
  /** Cells that are marked, counted row by row. */
  marks: ReadonlySet<number>;
  kind: "left" | "going" | "changed";
}

/** A small glass with some of its cells in another tint. */
function Tinted({ glass, tint, name, marks, kind }: TintedProps) {
  const pitch = Math.max(1, Math.min(2.4, 246 / (glass.cols * CELL_COLS)));
  const width = CELL_COLS * pitch;
  const height = rowPitch(glass) * pitch;
  return (
    <figure className={css.glass}>
      <div style={{ background: groundOf(glass, tintOf(tint)) }}>
        <div className={css.area}>
          <Glass glass={glass} tint={tint} pitch={pitch} name={name} />
          {[...marks].map((i) => (
            <span
              key={i}
              data-kind={kind}
              style={{
                left: (i % glass.cols) * width - pitch / 2,
                top: Math.floor(i / glass.cols) * height - pitch / 2,
                width,
                height,
              }}
            />
          ))}
        </div>
      </div>
      <figcaption>{name}</figcaption>
    </figure>
  );
}
