import type { Input, Show } from "../../api/plays";
import { Choice } from "../../ui/Choice";
import { Field } from "../../ui/Field";
import { character, milliseconds, number } from "./reading";
import { inputTitle } from "./words";
import css from "./Sheet.module.css";

export interface PartProps {
  input: Input;
  set: (next: Partial<Input>) => void;
}

/** What holds the pins of a contact while it is open. */
export function HeldBy({ input, set }: PartProps) {
  return (
    <Choice
      label="Held while open by"
      value={input.pull ?? ""}
      onChange={(v) => set({ pull: (v || undefined) as Input["pull"] })}
    >
      <option value="">the host’s own pull-up</option>
      <option value="up">a resistor to the supply</option>
      <option value="down">a resistor to ground</option>
    </Choice>
  );
}

export function ButtonPart({ input, set }: PartProps) {
  const b = input.button ?? {};
  return (
    <>
      <HeldBy input={input} set={set} />
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

export function CounterPart({ input, show, set }: PartProps & { show: Show }) {
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

export function SerialPart({ input, show, set }: PartProps & { show: Show }) {
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
        <Choice
          label="A message ends by"
          value={s.ends ?? ""}
          onChange={(v) => put({ ends: (v || undefined) as typeof s.ends })}
        >
          <option value="">a line end; not decided</option>
          <option value="line">a line end</option>
          <option value="pause">a pause, or a line end</option>
        </Choice>
        {s.ends === "pause" ? (
          <Field
            label="pause, ms (0: 50, or three characters)"
            mono
            value={String(s.pauseMs ?? 0)}
            onChange={number((pauseMs) => put({ pauseMs: Math.round(pauseMs) || undefined }))}
          />
        ) : (
          <Field
            label="half a message is given up after, ms"
            mono
            value={String(s.timeoutMs ?? 0)}
            onChange={number((timeoutMs) => put({ timeoutMs: Math.round(timeoutMs) }))}
          />
        )}
      </div>
      <Choice
        label="Its bytes are"
        value={s.text ?? ""}
        onChange={(v) => put({ text: (v || undefined) as typeof s.text })}
      >
        <option value="">UTF-8, as telephones send</option>
        <option value="codes">codes of the module’s ROM</option>
      </Choice>
      {s.text !== "codes" && (
        <Field
          label="in place of what the module cannot show"
          mono
          value={s.missing ?? "?"}
          onChange={character((missing) => put({ missing }))}
        />
      )}
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
