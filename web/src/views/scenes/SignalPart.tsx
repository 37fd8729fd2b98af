import { Choice } from "../../ui/Choice";
import { Field } from "../../ui/Field";
import type { PartProps } from "./kindParts";
import { MeterPart } from "./MeterPart";
import { milliseconds, number } from "./reading";
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
