import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Module } from "../../api/client";
import { fallQuery, type Input, type Show } from "../../api/plays";
import { Choice } from "../../ui/Choice";
import { Field } from "../../ui/Field";
import { Icon } from "../../ui/Icon";
import { InlineText } from "../../ui/InlineText";
import { addFeed, changeInput, removeFeed, removeInput } from "./edits";
import { milliseconds, number } from "./reading";
import { inputTitle, kindTitles, time } from "./words";
import css from "./Sheet.module.css";

interface Props {
  module: Module;
  show: Show;
  input: Input;
  change: (next: (s: Show) => Show, tag?: string) => void;
}

/** An input: how it is read, what stands in for it here, and which fields it feeds. */
export function InputSheet({ module, show, input, change }: Props) {
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
        <button
          type="button"
          className="quiet"
          aria-label="Remove the input"
          title="Remove the input"
          onClick={() => change((s) => removeInput(s, input.id))}
        >
          <Icon name="bin" size={16} />
        </button>
      </div>
      <p className={css.note}>
        {kindTitles[input.kind]}; <code>{input.id}</code> in files of events
      </p>
      {input.kind === "button" && <ButtonPart input={input} set={set} />}
      {input.kind === "timer" && (
        <Field
          label="ticks each, ms"
          mono
          value={String(input.everyMs ?? 1000)}
          onChange={milliseconds((everyMs) => set({ everyMs }), 1, 86_400_000)}
        />
      )}
      {input.kind === "counter" && <CounterPart input={input} show={show} set={set} />}
      {input.kind === "serial" && <SerialPart input={input} show={show} set={set} />}
      {input.kind === "signal" && <SignalPart input={input} set={set} />}
      {input.kind !== "button" && (
        <>
          <h3>Fields that show it</h3>
          <ul className={css.feeds}>
            {feeds.map((f) => (
              <li key={f.at}>
                {f.field}
                {f.peak && <small>peak</small>}
                <button
                  type="button"
                  className="quiet"
                  aria-label={`${f.field} shows it no more`}
                  onClick={() => change((s) => removeFeed(s, f.at))}
                >
                  <Icon name="close" size={14} />
                </button>
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

interface PartProps {
  input: Input;
  set: (next: Partial<Input>) => void;
}

function ButtonPart({ input, set }: PartProps) {
  const b = input.button ?? {};
  return (
    <>
      <Choice
        label="Held while open by"
        value={input.pull ?? ""}
        onChange={(v) => set({ pull: (v || undefined) as Input["pull"] })}
      >
        <option value="">the host’s own pull-up</option>
        <option value="up">a resistor to the supply</option>
        <option value="down">a resistor to ground</option>
      </Choice>
      <div className={css.pair}>
        <Field
          label="counts after, ms"
          mono
          value={String(b.debounceMs ?? 20)}
          onChange={milliseconds((debounceMs) => set({ button: { ...b, debounceMs } }), 1, 1000)}
        />
        <Field
          label="held from, ms"
          mono
          value={String(b.longMs ?? 800)}
          onChange={milliseconds((longMs) => set({ button: { ...b, longMs } }), 1, 60_000)}
        />
      </div>
    </>
  );
}

function CounterPart({ input, show, set }: PartProps & { show: Show }) {
  const c = input.counter ?? {};
  const put = (next: typeof c) => set({ counter: { ...c, ...next } });
  const movers = (show.inputs ?? []).filter((i) => i.kind === "button" || i.kind === "timer");
  return (
    <>
      <Field
        label="steps along these words, with commas"
        value={(c.words ?? []).join(", ")}
        placeholder="none: it counts numbers"
        onChange={async (text) => {
          put({
            words: text
              .split(",")
              .map((w) => w.trim())
              .filter(Boolean),
          });
          return Promise.resolve(undefined);
        }}
      />
      {!c.words?.length && (
        <Field
          label="how many numbers, from 0 on"
          mono
          value={String(c.count ?? 0)}
          placeholder="no end"
          onChange={number((count) => put({ count: Math.round(count) }))}
        />
      )}
      <div className={css.pair}>
        {(["up", "down"] as const).map((way) => (
          <Choice
            key={way}
            label={way === "up" ? "stepped on by" : "stepped back by"}
            value={c[way] ?? ""}
            onChange={(v) => put({ [way]: v || undefined })}
          >
            <option value="">–</option>
            {movers.map((i) => (
              <option key={i.id} value={i.id}>
                {inputTitle(i)}
              </option>
            ))}
          </Choice>
        ))}
      </div>
      <label>
        <input type="checkbox" checked={!c.stops} onChange={(e) => put({ stops: !e.target.checked })} /> after the last
        comes the first
      </label>
    </>
  );
}

function SerialPart({ input, show, set }: PartProps & { show: Show }) {
  const s = input.serial ?? {};
  const put = (next: typeof s) => set({ serial: { ...s, ...next } });
  return (
    <>
      <div className={css.pair}>
        <Choice label="Baud" value={s.baud ?? 9600} onChange={(v) => put({ baud: Number(v) })}>
          {[300, 1200, 2400, 4800, 9600, 19200, 38400, 57600, 115200].map((b) => (
            <option key={b}>{b}</option>
          ))}
        </Choice>
        <Field
          label="kept while busy, characters"
          mono
          value={String(s.buffer ?? 64)}
          onChange={number((buffer) => put({ buffer: Math.round(buffer) }))}
        />
        <Field
          label="longest message, characters"
          mono
          value={String(s.longest ?? 80)}
          onChange={number((longest) => put({ longest: Math.round(longest) }))}
        />
        <Field
          label="half a message ends after, ms"
          mono
          value={String(s.timeoutMs ?? 0)}
          onChange={number((timeoutMs) => put({ timeoutMs: Math.round(timeoutMs) }))}
        />
      </div>
      <Choice label="Emptied by" value={s.reset ?? ""} onChange={(v) => put({ reset: v || undefined })}>
        <option value="">a form feed alone</option>
        {(show.inputs ?? [])
          .filter((i) => i.kind === "button")
          .map((i) => (
            <option key={i.id} value={i.id}>
              {inputTitle(i)}, and a form feed
            </option>
          ))}
      </Choice>
      <label>
        <input type="checkbox" checked={s.asItComes ?? false} onChange={(e) => put({ asItComes: e.target.checked })} />{" "}
        shown letter by letter, as it comes
      </label>
    </>
  );
}

const curves = [
  ["", "none: its values come as events"],
  ["constant", "constant"],
  ["ramp", "ramp"],
  ["sine", "sine"],
  ["steps", "steps"],
  ["noise", "noise"],
  ["tide", "like a tide"],
] as const;

function SignalPart({ input, set }: PartProps) {
  const s = input.signal ?? {};
  const put = (next: typeof s) => set({ signal: { ...s, ...next } });
  const source = s.source ?? {};
  const course = (next: typeof source) => put({ source: { ...source, ...next } });
  return (
    <>
      <div className={css.pair}>
        <Field
          label="decimals that count"
          mono
          value={String(s.decimals ?? 0)}
          onChange={number((d) => put({ decimals: Math.min(Math.max(Math.round(d), 0), 4) }))}
        />
        <Field
          label="hysteresis"
          mono
          value={String(s.hysteresis ?? 0)}
          onChange={number((hysteresis) => put({ hysteresis }))}
        />
        <Field label="it begins at" mono value={String(s.start ?? 0)} onChange={number((start) => put({ start }))} />
      </div>
      <h3>What stands in for it here</h3>
      <Choice
        label="Course"
        value={source.curve ?? ""}
        onChange={(v) => course({ curve: (v || undefined) as typeof source.curve })}
      >
        {curves.map(([id, title]) => (
          <option key={id} value={id}>
            {title}
          </option>
        ))}
      </Choice>
      {source.curve && (
        <div className={css.pair}>
          {source.curve === "steps" ? (
            <Field
              label="levels, with commas"
              mono
              value={(source.levels ?? []).join(", ")}
              onChange={async (text) => {
                const levels = text.split(",").map((v) => Number(v));
                if (levels.some((v) => !Number.isFinite(v)))
                  return Promise.resolve(`“${text}”: numbers such as 1, 2.5, 4`);
                course({ levels });
                return Promise.resolve(undefined);
              }}
            />
          ) : (
            <>
              <Field
                label={source.curve === "constant" ? "value" : "from"}
                mono
                value={String(source.low ?? 0)}
                onChange={number((low) => course({ low }))}
              />
              {source.curve !== "constant" && (
                <Field label="to" mono value={String(source.high ?? 0)} onChange={number((high) => course({ high }))} />
              )}
            </>
          )}
          {["ramp", "sine", "steps", "tide"].includes(source.curve) && (
            <Field
              label={source.curve === "steps" ? "each lasts, ms" : "period, ms"}
              mono
              value={String(source.periodMs ?? 10_000)}
              onChange={milliseconds((periodMs) => course({ periodMs }), 1, 86_400_000)}
            />
          )}
          {source.curve === "noise" && (
            <Field
              label="seed"
              mono
              value={String(source.seed ?? 0)}
              onChange={number((seed) => course({ seed: Math.round(seed) }))}
            />
          )}
          <Field
            label="read each, ms"
            mono
            value={String(source.sampleMs ?? 100)}
            onChange={milliseconds((sampleMs) => course({ sampleMs }), 1, 3_600_000)}
          />
        </div>
      )}
      <MeterPart input={input} set={set} />
    </>
  );
}

/** What a meter's needle does, by a standard or by a resistor and a capacitor. */
function MeterPart({ input, set }: PartProps) {
  const s = input.signal ?? {};
  const m = s.meter ?? {};
  const put = (next: typeof m) => set({ signal: { ...s, meter: { ...m, ...next } } });
  const [ohms, setOhms] = useState(10_000);
  const [micro, setMicro] = useState(10);
  const fall = Math.max((m.fallMs ?? 0) * Math.LN10, 1); // to a tenth, as the server tells it
  const { data } = useQuery(fallQuery({ fallMs: fall, ohms, farads: micro / 1e6 }));
  return (
    <>
      <h3>As a meter</h3>
      <Choice
        label="It reads"
        value={m.reads ?? ""}
        onChange={(v) => put({ reads: (v || undefined) as typeof m.reads })}
      >
        <option value="">no meter: fields show the signal</option>
        <option value="linear">its size</option>
        <option value="decibels">decibels</option>
      </Choice>
      {m.reads && (
        <>
          <Choice
            label="By a standard"
            value=""
            onChange={(name) => {
              const p = data?.presets.find((o) => o.name === name);
              if (p) put({ riseMs: round(p.riseMs), fallMs: round(p.fallMs), holdMs: p.holdMs });
            }}
          >
            <option value="">choose…</option>
            {data?.presets.map((p) => (
              <option key={p.name} value={p.name}>
                {p.title}
              </option>
            ))}
          </Choice>
          <div className={css.pair}>
            {m.reads === "decibels" && (
              <Field
                label="0 dB at"
                mono
                value={String(m.reference ?? 1)}
                onChange={number((reference) => put({ reference }))}
              />
            )}
            <Field
              label="rise, RC in ms"
              mono
              value={String(m.riseMs ?? 0)}
              onChange={number((riseMs) => put({ riseMs: Math.max(riseMs, 0) }))}
            />
            <Field
              label="fall, RC in ms"
              mono
              value={String(m.fallMs ?? 0)}
              onChange={number((fallMs) => put({ fallMs: Math.max(fallMs, 0) }))}
            />
            <Field
              label="peak held, ms"
              mono
              value={String(m.holdMs ?? 1000)}
              onChange={milliseconds((holdMs) => put({ holdMs }), 1, 60_000)}
            />
          </div>
          {(m.fallMs ?? 0) > 0 && data && (
            <div className={css.parts}>
              <p>Falls to a tenth in {time(fall)}. In hardware, a resistor across a capacitor:</p>
              <ul>
                {data.pairs.map((p) => (
                  <li key={`${p.ohms} ${p.farads}`}>
                    {ohm(p.ohms)} and {farad(p.farads)}: {time(p.fallMs)}
                  </li>
                ))}
              </ul>
            </div>
          )}
          <div className={css.pair}>
            <Field
              label="A pair at hand: kΩ"
              mono
              value={String(ohms / 1000)}
              onChange={number((v) => setOhms(Math.max(v, 0) * 1000))}
            />
            <Field label="µF" mono value={String(micro)} onChange={number((v) => setMicro(Math.max(v, 0)))} />
          </div>
          {data?.givenMs !== undefined && (
            <p className={css.note}>
              It falls to a tenth in <b>{time(data.givenMs)}</b>.{" "}
              <button
                type="button"
                className={css.inline}
                onClick={() => put({ fallMs: round((ohms * micro) / 1000) })}
              >
                Fall like that
              </button>
            </p>
          )}
        </>
      )}
    </>
  );
}

const round = (v: number): number => Math.round(v * 10) / 10;

const ohm = (v: number): string => (v >= 1e6 ? `${v / 1e6} MΩ` : v >= 1e3 ? `${v / 1e3} kΩ` : `${v} Ω`);

const farad = (v: number): string => (v >= 1e-6 ? `${round(v * 1e6)} µF` : `${round(v * 1e9)} nF`);
