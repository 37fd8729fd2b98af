import { Choice } from "../../ui/Choice";
import { Field } from "../../ui/Field";
import type { PartProps } from "./kindParts";
import { MeterPart } from "./MeterPart";
import { NumberField } from "../../ui/NumberField";
import css from "./Sheet.module.css";

const curves = [
  ["", "none: its values come as events"],
  ["constant", "constant"],
  ["ramp", "ramp"],
  ["sine", "sine"],
  ["steps", "steps"],
  ["noise", "noise"],
  ["tide", "like a tide"],
] as const;

export function SignalPart({ input, set }: PartProps) {
  const s = input.signal ?? {};
  const put = (next: typeof s) => set({ signal: { ...s, ...next } });
  const source = s.source ?? {};
  const course = (next: typeof source) => put({ source: { ...source, ...next } });
  return (
    <>
      <div className={css.pair}>
        <NumberField
          label="decimals that count"
          value={s.decimals ?? 0}
          whole
          from={0}
          to={4}
          onChange={(d) => put({ decimals: d })}
        />
        <NumberField label="hysteresis" value={s.hysteresis ?? 0} onChange={(hysteresis) => put({ hysteresis })} />
        <NumberField label="it begins at" value={s.start ?? 0} onChange={(start) => put({ start })} />
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
              <NumberField
                label={source.curve === "constant" ? "value" : "from"}
                value={source.low ?? 0}
                onChange={(low) => course({ low })}
              />
              {source.curve !== "constant" && (
                <NumberField label="to" value={source.high ?? 0} onChange={(high) => course({ high })} />
              )}
            </>
          )}
          {["ramp", "sine", "steps", "tide"].includes(source.curve) && (
            <NumberField
              label={source.curve === "steps" ? "each lasts, ms" : "period, ms"}
              value={source.periodMs ?? 10_000}
              whole
              from={1}
              to={86_400_000}
              onChange={(periodMs) => course({ periodMs })}
            />
          )}
          {source.curve === "noise" && (
            <NumberField label="seed" value={source.seed ?? 0} whole onChange={(seed) => course({ seed })} />
          )}
          <NumberField
            label="read each, ms"
            value={source.sampleMs ?? 100}
            whole
            from={1}
            to={3_600_000}
            onChange={(sampleMs) => course({ sampleMs })}
          />
        </div>
      )}
      <MeterPart input={input} set={set} />
    </>
  );
}
