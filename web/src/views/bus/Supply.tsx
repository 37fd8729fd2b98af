import { useState } from "react";
import type { Plan } from "../../api/client";
import { Gauge } from "../../parts/supply/Gauge";
import { decimal, milliamperes } from "../../ui/numbers";
import { useBench } from "../../work/BenchContext";
import { TextBox } from "../../ui/TextBox";
import css from "./Supply.module.css";

const mA = (v: number | undefined) => (v ? milliamperes(v) : "");

/** What draws how much from which rail: planned beside measured, of which the measured one counts. */
export function Supply({ plan }: { plan: Plan }) {
  const { bench, change } = useBench();
  const [refused, setRefused] = useState<string>();
  const measure = (index: number, text: string) => {
    const v = text.trim() === "" ? undefined : decimal(text);
    if (v !== undefined && !(v >= 0 && v <= 5000)) {
      setRefused(`“${text}” is no current; expected 0–5000 mA, or nothing where it was not measured.`);
      return;
    }
    setRefused(undefined);
    change(
      (b) => ({
        ...b,
        modules: b.modules.map((m, i) =>
          i === index
            ? { ...m, display: { ...m.display, measured: { ...m.display.measured, currentMA: v || undefined } } }
            : m,
        ),
      }),
      `measured ${index}`,
    );
  };
  return (
    <section aria-label="Supply">
      <h2>
        Supply <small>in milliamperes; a measured figure counts in place of the planned one</small>
      </h2>
      <div className={css.rails}>
        {plan.rails.map((r) => (
          <div key={r.name} className={css.rail}>
            <Gauge rail={r} />
            <p className={css.limit}>
              {r.limitMA ? `${r.limitOf} gives ${Math.round(r.limitMA)} mA` : `what ${r.limitOf} gives is not known`}
            </p>
            <table>
              <thead>
                <tr>
                  <th scope="col">Draws</th>
                  <th scope="col">planned</th>
                  <th scope="col">measured</th>
                </tr>
              </thead>
              <tbody>
                {r.loads.map((l) => {
                  const index = /^\/modules\/(\d+)$/.exec(l.path)?.[1];
                  return (
                    <tr key={l.path + l.name} title={l.source}>
                      <th scope="row">{l.name}</th>
                      <td>{mA(l.plannedMA) || "not stated"}</td>
                      <td>
                        {index !== undefined && (
                          <TextBox
                            aria-label={`Measured current of ${l.name}, mA`}
                            inputMode="decimal"
                            defaultValue={bench.modules[Number(index)]?.display.measured?.currentMA ?? ""}
                            key={bench.modules[Number(index)]?.display.measured?.currentMA ?? "none"}
                            onBlur={(e) => measure(Number(index), e.target.value)}
                            onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
                          />
                        )}
                      </td>
                    </tr>
                  );
                })}
              </tbody>
            </table>
          </div>
        ))}
      </div>
      {refused && <p role="alert">{refused}</p>}
      {plan.pins.mostMA > 0 && (
        <p className={css.pins}>
          The host’s pins: {mA(plan.pins.mostMA)} mA at most on one ({plan.pins.mostOf}
          {plan.pins.limitMA ? `; it gives ${mA(plan.pins.limitMA)} mA` : ""}), {mA(plan.pins.totalMA)} mA on all at
          once
          {plan.pins.allMA ? `, of ${mA(plan.pins.allMA)} mA` : ""}.
        </p>
      )}
      <p className={css.care}>
        Unplug before rewiring. A reversed supply kills a module; a VFD makes tens of volts on its board. Anything that
        is joined to the mains is work for local codes and licensed people.
      </p>
    </section>
  );
}
