import { useVirtualizer } from "@tanstack/react-virtual";
import { memo, useCallback, useEffect, useRef, type KeyboardEvent } from "react";
import type { RunResult, Step } from "../../api/client";
import { cellOf } from "../../work/cellOf";
import { useStep } from "../../work/StepContext";
import { binary, clock, digits, time } from "../../ui/numbers";
import { placed, useBase } from "../../ui/places";
import { useLatest } from "../../ui/useLatest";
import { Bare } from "../../ui/Bare";
import css from "./StepList.module.css";

type Program = RunResult["program"];

const ROW = 34;

interface Props {
  program: Program;
  step: number | null;
  choose: (step: number | null) => void;
  /** Step, RS, byte and meaning only. */
  compact?: boolean;
  /** Steps at which a run stops; a click on a step's number turns its stop on or off. */
  stops?: ReadonlySet<number>;
  onStop?: (step: number) => void;
}

/** The steps in a table; the chosen one's outcome is on the glass. */
// The list re-renders with every scroll; no compiler memoizes it here.
/* eslint-disable react-hooks/incompatible-library */
export const StepList = memo(function StepList({ program, step, choose, compact, stops, onStop }: Props) {
  const { mark, setMark, cols } = useStep();
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: program.steps.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 4,
    scrollPaddingStart: ROW, // the head covers the first row
    scrollPaddingEnd: ROW,
  });

  const height = rows.scrollRect?.height; // what opens above the list makes it shorter
  useEffect(() => {
    if (step !== null) rows.scrollToIndex(Math.max(step, 0), { align: "auto" });
  }, [step, height]); // eslint-disable-line react-hooks/exhaustive-deps

  const latestChoose = useLatest(choose);
  const latestOnStop = useLatest(onStop);
  const toggle = useCallback(
    (index: number, chosen: boolean) => latestChoose.current(chosen ? null : index),
    [latestChoose],
  );
  const toggleStop = useCallback((index: number) => latestOnStop.current?.(index), [latestOnStop]);
  const point = useCallback((s: Step | null) => setMark(s && cellOf(s, cols)), [setMark, cols]);

  const onKeyDown = (e: KeyboardEvent) => {
    const last = program.steps.length - 1;
    const at = step ?? last;
    const to: Record<string, number | null> = {
      ArrowDown: Math.min(at + 1, last),
      ArrowUp: Math.max(at - 1, 0),
      PageDown: Math.min(at + 10, last),
      PageUp: Math.max(at - 10, 0),
      Home: 0,
      End: last,
      Escape: null,
    };
    const next = to[e.key];
    if (next === undefined) return;
    e.preventDefault();
    choose(next);
  };

  return (
    <div
      ref={scroller}
      className={css.scroller}
      data-compact={compact || undefined}
      role="grid"
      aria-label="Steps"
      aria-rowcount={program.steps.length + 1}
      aria-activedescendant={step === null ? undefined : `step-${step}`}
      tabIndex={0}
      onKeyDown={onKeyDown}
    >
      <div className={css.head} role="row">
        <span role="columnheader">Step</span>
        <span role="columnheader" title="Since power-up">
          At, ms
        </span>
        <span role="columnheader" title="Register select: 1 for data, 0 for an instruction">
          RS
        </span>
        <span role="columnheader">Byte</span>
        <span role="columnheader">Binary</span>
        <span role="columnheader">Meaning</span>
        <span role="columnheader" title="What goes over the wire, in hexadecimal; S and P are START and STOP">
          Wire
        </span>
        <span role="columnheader" title="What the controller needs before the next pulse of E">
          Wait
        </span>
      </div>
      <div className={css.body} onPointerLeave={() => point(null)} style={{ height: rows.getTotalSize() }}>
        {rows.getVirtualItems().map((item) => {
          const s = program.steps[item.index];
          return (
            s && (
              <StepRow
                key={item.key}
                step={s}
                address={program.addressByte}
                top={item.start}
                chosen={item.index === step}
                marked={mark !== null && cellOf(s, cols) === mark}
                stop={stops?.has(item.index) ?? false}
                onToggle={toggle}
                onStop={onStop && toggleStop}
                onPoint={point}
              />
            )
          );
        })}
      </div>
    </div>
  );
});

interface RowProps {
  step: Step;
  address: string | undefined;
  top: number;
  chosen: boolean;
  /** It writes the cell that is pointed at. */
  marked: boolean;
  stop: boolean;
  onToggle: (index: number, chosen: boolean) => void;
  onStop: ((index: number) => void) | undefined;
  onPoint: (step: Step | null) => void;
}

/** Runs differ in a few steps only; the others are not drawn again. */
const StepRow = memo(DrawnRow, (a, b) => {
  return (
    a.top === b.top &&
    a.chosen === b.chosen &&
    a.marked === b.marked &&
    a.stop === b.stop &&
    a.onPoint === b.onPoint &&
    a.address === b.address &&
    JSON.stringify(a.step) === JSON.stringify(b.step)
  );
});

function DrawnRow({ step, address, top, chosen, marked, stop, onToggle, onStop, onPoint }: RowProps) {
  const sends = step.value !== undefined;
  const meaning = placed(step.meaning, step.places, useBase());
  return (
    <div
      id={`step-${step.index}`}
      className={css.row}
      role="row"
      aria-rowindex={step.index + 2}
      aria-selected={chosen}
      data-marked={marked || undefined}
      onPointerEnter={() => onPoint(step)}
      data-kind={sends ? (step.rs ? "data" : "instruction") : "wait"}
      style={{ transform: `translateY(${top}px)` }}
      onClick={() => onToggle(step.index, chosen)}
    >
      <span role="gridcell" data-stop={stop || undefined}>
        {onStop ? (
          <Bare
            tabIndex={-1}
            aria-label={`${stop ? "Do not stop" : "Stop"} at step ${step.index + 1}`}
            onClick={(e) => {
              e.stopPropagation();
              onStop(step.index);
            }}
          >
            {step.index + 1}
          </Bare>
        ) : (
          step.index + 1
        )}
      </span>
      <span role="gridcell">{clock(step.startUs)}</span>
      <span role="gridcell" className={css.rs}>
        {step.rs}
      </span>
      <span role="gridcell" className={css.value}>
        {step.value === undefined ? "" : step.rw ? "read" : digits(step.value)}
      </span>
      <span role="gridcell" className={css.binary}>
        {step.value === undefined || step.rw ? "" : binary(step.value)}
      </span>
      <span role="gridcell" className={css.meaning} title={meaning}>
        {meaning}
      </span>
      <span role="gridcell">
        <Wire step={step} address={address} />
      </span>
      <span role="gridcell" className={css.wait} data-paused={step.pauseUs > 0 || undefined}>
        {step.waitUs > 0 ? time(step.waitUs) : ""}
      </span>
    </div>
  );
}

/** Words on the wire, with where an I²C transaction begins and ends. */
export function Wire({ step, address }: { step: Step; address: string | undefined }) {
  const starts = new Set(step.starts ?? []);
  return (
    <>
      {step.wire.map((word, i) => (
        <span key={i}>
          {starts.has(i) && address && <span className={css.frame}>S {address} </span>}
          {word}{" "}
        </span>
      ))}
      {step.stops && <span className={css.frame}>P</span>}
    </>
  );
}
