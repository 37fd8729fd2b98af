import type { Input, Show } from "../../api/plays";
import { Choice } from "../../ui/Choice";
import { Field } from "../../ui/Field";
import { character } from "./reading";
import { inputTitle } from "../../work/showWords";
import { NumberField } from "../../ui/NumberField";
import { Check } from "../../ui/Check";
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
        <NumberField
          label="counts after, ms"
          value={b.debounceMs ?? 20}
          whole
          from={1}
          to={1000}
          onChange={(debounceMs) => set({ button: { ...b, debounceMs } })}
        />
        <NumberField
          label="held from, ms"
          value={b.longMs ?? 800}
          whole
          from={1}
          to={60_000}
          onChange={(longMs) => set({ button: { ...b, longMs } })}
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
        <NumberField
          label="how many numbers, from 0 on"
          value={c.count ?? 0}
          whole
          from={0}
          to={65_535}
          placeholder="no end"
          onChange={(count) => put({ count })}
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
      <Check checked={!c.stops} onChange={(e) => put({ stops: !e.target.checked })}>
        after the last comes the first
      </Check>
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
        <NumberField
          label="kept while busy, characters"
          value={s.buffer ?? 64}
          whole
          from={0}
          to={4096}
          onChange={(buffer) => put({ buffer })}
        />
        <NumberField
          label="longest message, characters"
          value={s.longest ?? 80}
          whole
          from={0}
          to={200}
          onChange={(longest) => put({ longest })}
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
          <NumberField
            label="pause, ms (0: 50, or three characters)"
            value={s.pauseMs ?? 0}
            whole
            from={0}
            to={60_000}
            onChange={(pauseMs) => put({ pauseMs: pauseMs || undefined })}
          />
        ) : (
          <NumberField
            label="half a message is given up after, ms"
            value={s.timeoutMs ?? 0}
            whole
            from={0}
            to={3_600_000}
            onChange={(timeoutMs) => put({ timeoutMs })}
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
      <Check checked={s.asItComes ?? false} onChange={(e) => put({ asItComes: e.target.checked })}>
        shown letter by letter, as it comes
      </Check>
    </>
  );
}
