import { useState, type KeyboardEvent } from "react";
import type { FieldOf } from "../../api/client";
import type { Edit, Feed, Input, PlayEvent, PlayInput, PlayKey } from "../../api/plays";
import { Bare } from "../../ui/Bare";
import { Check } from "../../ui/Check";
import { drag } from "../../ui/drag";
import { Quiet } from "../../ui/Quiet";
import { TextBox } from "../../ui/TextBox";
import { useLatest } from "../../ui/useLatest";
import { inputTitle, time } from "../../work/showWords";
import css from "./Device.module.css";

interface DeviceProps {
  input: Input;
  known: PlayInput | undefined;
  range: { low: number; high: number };
  onHappen: (e: { value?: number; text?: string; input?: string }) => void;
}

/** An input as it lies on the table: it is worked by pointer, touch and keys. */
export function Device({
  input,
  known,
  range,
  onHappen,
}: DeviceProps & { onHappen: (e: Omit<PlayEvent, "atMs" | "input">) => void }) {
  switch (input.kind) {
    case "button":
      return (
        <Cap name={inputTitle(input)} down={known?.value === 1} onPress={(down) => onHappen({ value: down ? 1 : 0 })} />
      );
    case "timer":
      return (
        <p className={css.reading}>
          <b>{known?.value ?? 0} s</b>
          <small>ticks each {time(input.everyMs ?? 1000)}</small>
        </p>
      );
    case "counter":
      return (
        <div className={css.counter}>
          <Bare aria-label={`${inputTitle(input)} back`} onClick={() => onHappen({ value: -1 })}>
            −
          </Bare>
          <output>{known?.text ?? known?.value ?? 0}</output>
          <Bare aria-label={`${inputTitle(input)} on`} onClick={() => onHappen({ value: 1 })}>
            +
          </Bare>
        </div>
      );
    case "serial":
      return <Line input={input} known={known} onSend={(text) => onHappen({ text })} />;
    case "signal":
      return <Slider input={input} known={known} range={range} onValue={(value) => onHappen({ value })} />;
  }
}

/** A push-button: down while it is held, by pointer, touch, Space or Enter. */
function Cap({ name, down, onPress }: { name: string; down: boolean; onPress: (down: boolean) => void }) {
  const [held, setHeld] = useState(false);
  const press = (next: boolean) => {
    if (next === held) return;
    setHeld(next);
    onPress(next);
  };
  const latest = useLatest(press);
  const key = (e: KeyboardEvent, next: boolean) => {
    if (e.key !== " " && e.key !== "Enter") return;
    e.preventDefault();
    e.stopPropagation();
    press(next);
  };
  return (
    <Bare
      className={css.cap}
      aria-label={`Press ${name}`}
      aria-pressed={held}
      data-down={down || held || undefined}
      onPointerDown={(e) => {
        press(true);
        drag(e, { end: () => latest.current(false) });
      }}
      onBlur={() => press(false)}
      onKeyDown={(e) => key(e, true)}
      onKeyUp={(e) => key(e, false)}
    />
  );
}

function Line({
  input,
  known,
  onSend,
}: {
  input: Input;
  known: PlayInput | undefined;
  onSend: (text: string) => void;
}) {
  const [text, setText] = useState("");
  const [ends, setEnds] = useState(true);
  return (
    <form
      className={css.line}
      onSubmit={(e) => {
        e.preventDefault();
        if (text || ends) onSend(ends ? `${text}\\n` : text);
        setText("");
      }}
    >
      <span>
        <TextBox
          aria-label={`Send over ${inputTitle(input)}`}
          placeholder="Text to send"
          value={text}
          maxLength={900}
          onChange={(e) => setText(e.target.value)}
        />
        <Quiet type="submit">Send</Quiet>
      </span>
      <small>
        <Check checked={ends} onChange={(e) => setEnds(e.target.checked)}>
          with the end of a line
        </Check>
        {known?.coming ? ` · coming: ${known.coming}` : ` · ${input.serial?.baud ?? 9600} baud`}
        {(known?.over ?? 0) > 0 && ` · ${known?.over} too many`}
      </small>
    </form>
  );
}

function Slider({
  input,
  known,
  range,
  onValue,
}: {
  input: Input;
  known: PlayInput | undefined;
  range: { low: number; high: number };
  onValue: (value: number) => void;
}) {
  const decimals = input.signal?.decimals ?? 0;
  const raw = known?.raw ?? 0;
  const meter = input.signal?.meter?.reads;
  const unit = meter === "decibels" ? " dB" : "";
  return (
    <div className={css.slider}>
      <input
        type="range"
        aria-label={`Value of ${inputTitle(input)}`}
        min={range.low}
        max={range.high}
        step={10 ** -decimals}
        value={raw}
        onChange={(e) => onValue(Number(e.target.value))}
      />
      <p>
        <b>{raw.toFixed(decimals)}</b>
        {meter && (
          <small>
            {" "}
            reads {(known?.value ?? 0).toFixed(meter === "decibels" ? 1 : decimals)}
            {unit}, peak {(known?.peak ?? 0).toFixed(meter === "decibels" ? 1 : decimals)}
            {unit}
          </small>
        )}
      </p>
    </div>
  );
}

/** From where to where a signal is moved by hand: its made-up course, or what its fields show. */
export function rangeOf(input: Input, feeds: Feed[], fields: FieldOf[]): { low: number; high: number } {
  const { low = 0, high = 0, levels = [], curve } = input.signal?.source ?? {};
  if (curve === "steps" && levels.length > 0)
    return { low: Math.min(...levels), high: Math.max(...levels, Math.min(...levels) + 1) };
  if (high > low) return { low, high };
  const fed = feeds.filter((f) => f.input === input.id).flatMap((f) => fields.filter((o) => o.name === f.field));
  const least = Math.min(...fed.map((f) => f.range?.min ?? 0), 0);
  const most = Math.max(...fed.map((f) => f.range?.max ?? f.values?.length ?? 0), 0);
  return most > least && input.signal?.meter?.reads !== "decibels"
    ? { low: least, high: most }
    : { low: 0, high: 1023 };
}

const arms = ["up", "left", "right", "down"] as const;

/** What a button does on the pad; undefined where it has no place there. */
export const pad = (edit: Edit, input: string) =>
  edit.keys?.find(
    (k) => k.input === input && (arms.includes(k.does as "up") || k.does === "accept" || k.does === "next"),
  );

/** The stick of the scene that is played: it works the inputs that the edit listens to. */
export function Pad({
  edit,
  keys,
  onHappen,
}: {
  edit: Edit;
  keys: PlayKey[];
  onHappen: (e: Omit<PlayEvent, "atMs">) => void;
}) {
  const key = (does: string) => edit.keys?.find((k) => k.does === does);
  const work = (does: string, down: boolean) => {
    const k = keys.find((o) => o.does === does);
    if (k) onHappen({ input: k.input, value: down ? k.pressed : k.let });
  };
  const middle = key("accept") ? "accept" : "next";
  return (
    <div className={css.pad} role="group" aria-label={`Stick: ${edit.field}`}>
      {arms.map((a) => key(a) && <Cap key={a} name={a} down={false} onPress={(down) => work(a, down)} />)}
      {key(middle) && <Cap name={middle} down={false} onPress={(down) => work(middle, down)} />}
    </div>
  );
}
