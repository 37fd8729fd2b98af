import type { Module } from "../../api/client";
import type { Input, Show } from "../../api/plays";
import { Choice } from "../../ui/Choice";
import { Icon } from "../../ui/Icon";
import { InlineText } from "../../ui/InlineText";
import { addFeed, changeInput, removeFeed } from "./edits";
import { ButtonPart, CounterPart, SerialPart } from "./kindParts";
import { JointPart } from "./JointPart";
import { SignalPart } from "./SignalPart";
import { kindTitles } from "../../work/showWords";
import { NumberField } from "../../ui/NumberField";
import { Quiet } from "../../ui/Quiet";
import css from "./Sheet.module.css";

interface Props {
  module: Module;
  show: Show;
  input: Input;
  change: (next: (s: Show) => Show, tag?: string) => void;
  onRemove: () => void;
}

/** An input: how it is read, what stands in for it here, and which fields it feeds. */
export function InputSheet({ module, show, input, change, onRemove }: Props) {
  const set = (next: Partial<Input>) => change((s) => changeInput(s, input.id, next));
  const fields = module.screens.flatMap((s) => s.fields ?? []);
  const free = input.kind === "serial";
  const names = [
    ...new Set(
      fields
        .filter((f) => (f.kind === "free") === free && f.kind !== "clock" && f.kind !== "cursor")
        .map((f) => f.name),
    ),
  ];
  const feeds = (show.feeds ?? []).map((f, at) => ({ ...f, at })).filter((f) => f.input === input.id);
  return (
    <div className={css.sheet}>
      <div className={css.head}>
        <InlineText
          label="Name of the input"
          value={input.name ?? ""}
          placeholder={input.id}
          strong
          onChange={(name) => set({ name })}
        />
        <Quiet aria-label="Remove the input" title="Remove the input" onClick={onRemove}>
          <Icon name="bin" size={16} />
        </Quiet>
      </div>
      <p className={css.note}>
        {kindTitles[input.kind]}; <code>{input.id}</code> in files of events
      </p>
      {input.kind === "button" && <ButtonPart input={input} set={set} />}
      {input.kind === "timer" && (
        <NumberField
          label="ticks each, ms"
          value={input.everyMs ?? 1000}
          whole
          from={1}
          to={86_400_000}
          onChange={(everyMs) => set({ everyMs })}
        />
      )}
      {input.kind === "counter" && <CounterPart input={input} show={show} set={set} />}
      {input.kind === "serial" && <SerialPart input={input} show={show} set={set} />}
      {input.kind === "signal" && <SignalPart input={input} set={set} />}
      {input.kind !== "timer" && (
        <JointPart module={module} input={input} at={(show.inputs ?? []).indexOf(input)} set={set} />
      )}
      {input.kind !== "button" && (
        <>
          <h3>Fields that show it</h3>
          <ul className={css.feeds}>
            {feeds.map((f) => (
              <li key={f.at}>
                {f.field}
                {f.peak && <small>peak</small>}
                <Quiet aria-label={`${f.field} shows it no more`} onClick={() => change((s) => removeFeed(s, f.at))}>
                  <Icon name="close" size={14} />
                </Quiet>
              </li>
            ))}
          </ul>
          {names.length === 0 ? (
            <p className={css.note}>
              {free ? "No screen has a field of free text" : "No screen has a field that could"}: make one on the
              screens.
            </p>
          ) : (
            <Choice
              label="One more"
              value=""
              onChange={(v) =>
                change((s) =>
                  addFeed(s, { field: v.replace(/^peak:/, ""), input: input.id, peak: v.startsWith("peak:") }),
                )
              }
            >
              <option value="">choose…</option>
              {names.map((n) => (
                <option key={n}>{n}</option>
              ))}
              {input.signal?.meter?.reads &&
                names.map((n) => (
                  <option key={`peak:${n}`} value={`peak:${n}`}>
                    {n}, with the held peak
                  </option>
                ))}
            </Choice>
          )}
        </>
      )}
    </div>
  );
}
