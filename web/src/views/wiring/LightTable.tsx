import { useQuery } from "@tanstack/react-query";
import type { Module } from "../../api/client";
import { figuresQuery } from "../../api/queries";
import { Field } from "../../ui/Field";
import { decimal } from "../../ui/numbers";
import { Quiet } from "../../ui/Quiet";
import css from "./PartCard.module.css";

interface Props {
  module: Module;
  onOhm: (ohm: number) => void;
  onWish: (mA: number | undefined) => void;
}

/** The backlight's resistor: what a wished current takes, and what the resistors at hand give. */
export function LightTable({ module, onOhm, onWish }: Props) {
  const { data } = useQuery(figuresQuery(module));
  const light = data?.light;
  if (!light) return null;
  const now = module.fitting?.lightOhm ?? 220;
  return (
    <div className={css.figures} role="group" aria-label="Backlight resistor">
      <h3>Backlight resistor</h3>
      <p className={css.hint}>
        {light.kind}: {(light.forwardMV / 1000).toFixed(2)} V forward, fed {(light.supplyMV / 1000).toFixed(1)} V.
        {light.low ? " The supply is too low for it: it stays dark." : ` For ${light.wishedMA} mA: ${light.exact}.`}
      </p>
      <Field
        label="Wished current, mA"
        value={String(light.wishedMA)}
        onChange={(text) => {
          const v = decimal(text);
          if (text.trim() === "") onWish(undefined);
          else if (!(v > 0 && v <= 1000)) return Promise.resolve(`“${text}” is no current; expected 0.1–1000 mA`);
          else onWish(v);
          return Promise.resolve(undefined);
        }}
      />
      <Field
        label="Your resistor, Ω"
        value={String(now)}
        onChange={(text) => {
          const v = decimal(text);
          if (text.trim() === "" || !(v >= 0 && v <= 100_000))
            return Promise.resolve(`“${text}” is no resistance; expected 0–100000 Ω, such as 6.8`);
          onOhm(v);
          return Promise.resolve(undefined);
        }}
      />
      <table>
        <thead>
          <tr>
            <th scope="col">Resistor</th>
            <th scope="col">gives</th>
            <th scope="col">heat</th>
            <th scope="col">
              <span className="unseen">take it</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {light.choices.map((c) => (
            <tr key={c.name} data-over={c.over ? "" : undefined} data-now={c.ohm === now || undefined}>
              <th scope="row">
                {c.ohm === 0 ? "none" : c.says}
                <small>{c.ohm === 0 ? "" : c.name}</small>
                {c.bands.length > 0 && <small>{c.bands.join(", ")}</small>}
                {c.over && <small className={css.over}>{c.over}</small>}
              </th>
              <td>{c.currentMA.toFixed(1)} mA</td>
              <td>{c.heatMW < 1 ? "–" : `${Math.round(c.heatMW)} mW`}</td>
              <td>
                <Quiet
                  disabled={c.ohm === now}
                  aria-label={`${c.ohm === now ? "taken" : "Take"}: ${c.ohm === 0 ? "none" : c.says}`}
                  onClick={() => onOhm(c.ohm)}
                >
                  {c.ohm === now ? "taken" : "Take"}
                </Quiet>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
