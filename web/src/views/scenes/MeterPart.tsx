import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { fallQuery } from "../../api/plays";
import { Choice } from "../../ui/Choice";
import type { PartProps } from "./kindParts";
import { time } from "../../work/showWords";
import { NumberField } from "../../ui/NumberField";
import { Bare } from "../../ui/Bare";
import css from "./Sheet.module.css";

/** What a meter's needle does, by a standard or by a resistor and a capacitor. */
export function MeterPart({ input, set }: PartProps) {
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
              <NumberField label="0 dB at" value={m.reference ?? 1} onChange={(reference) => put({ reference })} />
            )}
            <NumberField label="rise, RC in ms" value={m.riseMs ?? 0} from={0} onChange={(riseMs) => put({ riseMs })} />
            <NumberField label="fall, RC in ms" value={m.fallMs ?? 0} from={0} onChange={(fallMs) => put({ fallMs })} />
            <NumberField
              label="peak held, ms"
              value={m.holdMs ?? 1000}
              whole
              from={1}
              to={60_000}
              onChange={(holdMs) => put({ holdMs })}
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
            <NumberField label="A pair at hand: kΩ" value={ohms / 1000} from={0} onChange={(v) => setOhms(v * 1000)} />
            <NumberField label="µF" value={micro} from={0} onChange={(v) => setMicro(v)} />
          </div>
          {data?.givenMs !== undefined && (
            <p className={css.note}>
              It falls to a tenth in <b>{time(data.givenMs)}</b>.{" "}
              <Bare className={css.inline} onClick={() => put({ fallMs: round((ohms * micro) / 1000) })}>
                Fall like that
              </Bare>
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
