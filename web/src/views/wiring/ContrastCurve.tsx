import { useQuery } from "@tanstack/react-query";
import type { Module } from "../../api/client";
import { figuresQuery } from "../../api/queries";
import { Quiet } from "../../ui/Quiet";
import css from "./PartCard.module.css";

interface Props {
  module: Module;
  onPot: (ohm: number) => void;
}

const W = 300;
const H = 120;

/** VO over the turn of the knob, for the potentiometers that people use, and how much of the turn is of use. */
export function ContrastCurve({ module, onPot }: Props) {
  const { data } = useQuery(figuresQuery(module));
  const c = data?.contrast;
  if (!c) return null;
  const now = module.fitting?.potOhm ?? 10_000;
  const top = Math.max(...c.curves.flatMap((k) => k.voMV), c.room.highMV);
  const bottom = Math.min(0, c.room.lowMV);
  const y = (mV: number) => H - ((mV - bottom) / (top - bottom)) * H;
  const volts = (mV: number) => `${(mV / 1000).toFixed(2)} V`;
  return (
    <div className={css.figures} role="group" aria-label="Contrast">
      <h3>Contrast</h3>
      <p className={css.hint}>
        It reads well with VO between {volts(c.room.lowMV)} and {volts(c.room.highMV)} at 25 °C; at 0 °C between{" "}
        {volts(c.cold.lowMV)} and {volts(c.cold.highMV)}, at 40 °C between {volts(c.warm.lowMV)} and{" "}
        {volts(c.warm.highMV)}.
        {c.below &&
          " VO must lie below ground: no potentiometer between supply and ground gives that. A charge pump or a diode doubler on a spare pin does."}
      </p>
      <svg viewBox={`-34 -8 ${W + 42} ${H + 30}`} role="img" aria-label="VO over the turn of the knob">
        <rect
          className={css.window}
          x="0"
          width={W}
          y={y(c.room.highMV)}
          height={Math.max(y(Math.max(c.room.lowMV, bottom)) - y(c.room.highMV), 1)}
        />
        <path className={css.axis} d={`M0 0V${H}H${W}`} />
        {c.curves.map((k) => (
          <path
            key={k.ohm}
            className={css.curve}
            data-now={k.ohm === now || undefined}
            d={k.voMV.map((v, i) => `${i ? "L" : "M"}${(i / (k.voMV.length - 1)) * W} ${y(v)}`).join("")}
          >
            <title>{k.says}</title>
          </path>
        ))}
        <text x="-4" y={y(top) + 5} textAnchor="end">
          {(top / 1000).toFixed(1)} V
        </text>
        <text x="-4" y={y(0) + 4} textAnchor="end">
          0
        </text>
        <text x="0" y={H + 16}>
          ground end
        </text>
        <text x={W} y={H + 16} textAnchor="end">
          VDD end
        </text>
      </svg>
      <table>
        <thead>
          <tr>
            <th scope="col">Potentiometer</th>
            <th scope="col">useful turn</th>
            <th scope="col">wastes</th>
            <th scope="col">
              <span className="unseen">take it</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {c.curves.map((k) => (
            <tr key={k.ohm} data-now={k.ohm === now || undefined}>
              <th scope="row">{k.says}</th>
              <td>{(k.useful * 100).toFixed(1)} %</td>
              <td>{k.currentMA.toFixed(2)} mA</td>
              <td>
                <Quiet
                  disabled={k.ohm === now}
                  aria-label={`${k.ohm === now ? "taken" : "Take"}: ${k.says}`}
                  onClick={() => onPot(k.ohm)}
                >
                  {k.ohm === now ? "taken" : "Take"}
                </Quiet>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className={css.hint}>
        The module’s own ladder pulls VO up: the larger the potentiometer, the less of its turn is left for it.
      </p>
    </div>
  );
}
