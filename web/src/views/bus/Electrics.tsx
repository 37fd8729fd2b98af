import type { Plan } from "../../api/client";
import { useBench } from "../../work/BenchContext";
import { useTable } from "../../work/useTable";
import { Choice } from "../../ui/Choice";
import { Field } from "../../ui/Field";
import { Term } from "../../ui/Term";
import { Quiet } from "../../ui/Quiet";
import css from "./Electrics.module.css";

type Segment = Plan["segments"][number];

const ohm = (r: number) => (r >= 1000 ? `${Number((r / 1000).toPrecision(3))} kΩ` : `${r} Ω`);
const volt = (mV: number) => `${Number((mV / 1000).toFixed(2))} V`;

/** Pull-ups, rise time and capacitance of every part of the bus that is one conductor. */
export function Electrics({ plan }: { plan: Plan }) {
  const { bench } = useBench();
  const { setBus } = useTable();
  const bus = bench.bus ?? {};
  const whole = (
    label: string,
    empty: string,
    value: number | undefined,
    most: number,
    put: (v: number | undefined) => void,
  ) => (
    <Field
      label={label}
      placeholder={empty}
      value={value ? String(value) : ""}
      onChange={(text) => {
        const v = text.trim() === "" ? undefined : Number(text);
        if (v !== undefined && !(Number.isInteger(v) && v >= 0 && v <= most)) {
          return Promise.resolve(`${text}; expected a whole number up to ${most}, or nothing`);
        }
        put(v || undefined);
        return Promise.resolve(undefined);
      }}
    />
  );
  return (
    <section aria-label="Pull-ups">
      <h2>
        <Term of="pull-up">Pull-ups</Term> and rise
      </h2>
      <div className={css.settings}>
        <Choice
          label="Clock"
          value={bus.speedHz ?? 100_000}
          onChange={(v) => setBus({ speedHz: Number(v) === 100_000 ? undefined : Number(v) })}
        >
          <option value={10_000}>10 kHz</option>
          <option value={50_000}>50 kHz</option>
          <option value={100_000}>100 kHz</option>
          <option value={400_000}>400 kHz</option>
        </Choice>
        {whole("Pull-ups on the bus itself, Ω", "none", bus.pullUpOhm, 1_000_000, (pullUpOhm) => setBus({ pullUpOhm }))}
        {whole("All its wires, cm", "20 for each part", bus.wireCM, 10_000, (wireCM) => setBus({ wireCM }))}
        {whole("Capacitance measured, pF", "not measured", bus.capacitancePF, 10_000, (capacitancePF) =>
          setBus({ capacitancePF }),
        )}
        <Choice
          label="Level converter"
          value={bus.converter ? "yes" : "no"}
          onChange={(v) => setBus({ converter: v === "yes" || undefined })}
        >
          <option value="no">none</option>
          <option value="yes">two-way, before what is fed more</option>
        </Choice>
        <Choice
          label="Multiplexer"
          value={bus.multiplexer ? bus.multiplexer.part : ""}
          onChange={(part) => setBus({ multiplexer: part ? { part, address: 0x70 } : undefined })}
        >
          <option value="">none</option>
          <option value="TCA9548A">TCA9548A, eight channels</option>
        </Choice>
      </div>
      <div className={css.segments}>
        {plan.segments.map((s) => (
          <SegmentCard key={s.name} segment={s} />
        ))}
      </div>
    </section>
  );
}

const LOW = Math.log(200);
const HIGH = Math.log(60_000);
const at = (r: number) => ((Math.log(Math.min(Math.max(r, 200), 60_000)) - LOW) / (HIGH - LOW)) * 300;

/** One segment: all pull-ups together between the least and the most that they may be. */
function SegmentCard({ segment: s }: { segment: Segment }) {
  const { bench, change } = useBench();
  const { setDevice, setBus } = useTable();
  const fits = s.ohm >= s.minOhm && s.ohm <= s.maxOhm;
  const remove = (path: string) => {
    const [, kind, index] = path.split("/");
    const m = kind === "modules" ? bench.modules[Number(index)] : undefined;
    const d = kind === "devices" ? bench.devices?.[Number(index)] : undefined;
    if (path === "/bus") setBus({ pullUpOhm: undefined });
    if (path === "/bus/converter") setBus({ converter: undefined });
    if (d) setDevice(d.id, { pullUpOhm: undefined });
    if (m) {
      change((b) => ({
        ...b,
        modules: b.modules.map((o) =>
          o.id === m.id ? { ...o, link: { ...o.link, outputs: { ...o.link.outputs, pullUpOhm: 0 } } } : o,
        ),
      }));
    }
  };
  return (
    <article className={css.segment} data-fits={fits || undefined} aria-label={`Electrics of ${s.name}`}>
      <h3>
        {s.name} <small>{s.highMV ? `rises to ${volt(s.highMV)}` : "nothing pulls it up"}</small>
      </h3>
      <svg
        viewBox="-8 0 330 54"
        role="img"
        aria-label={`All pull-ups ${ohm(s.ohm)}; from ${ohm(s.minOhm)} to ${ohm(s.maxOhm)}`}
      >
        <rect className={css.scale} x="0" y="22" width="300" height="8" rx="4" />
        {s.maxOhm > s.minOhm && (
          <rect className={css.room} x={at(s.minOhm)} y="22" width={at(s.maxOhm) - at(s.minOhm)} height="8" />
        )}
        {[1000, 10_000].map((r) => (
          <path key={r} className={css.tick} d={`M${at(r)} 30v4`} />
        ))}
        {[1000, 10_000].map((r) => (
          <text key={r} x={at(r)} y="46">
            {ohm(r)}
          </text>
        ))}
        {s.ohm > 0 && <path className={css.needle} d={`M${at(s.ohm)} 20l-6-11h12z`} />}
      </svg>
      <dl className={css.figures}>
        <div>
          <dt>all together</dt>
          <dd>{s.ohm ? ohm(s.ohm) : "none"}</dd>
        </div>
        <div>
          <dt>
            R<sub>p</sub>(min)
          </dt>
          <dd>{ohm(s.minOhm)}</dd>
        </div>
        <div>
          <dt>
            R<sub>p</sub>(max)
          </dt>
          <dd>{ohm(s.maxOhm)}</dd>
        </div>
        <div>
          <dt>rise, of {s.maxRiseNs} ns</dt>
          <dd>{s.ohm ? `${s.riseNs} ns` : "never"}</dd>
        </div>
        <div>
          <dt>{s.measured ? "measured" : "reckoned"}, of 400 pF</dt>
          <dd>{s.capacitancePF} pF</dd>
        </div>
      </dl>
      <ul className={css.pulls}>
        {s.pullUps.map((p) => (
          <li key={p.path}>
            {ohm(p.ohm)} to {volt(p.toMV)} on {p.name}
            <Quiet aria-label={`Remove the pull-ups of ${p.name}`} onClick={() => remove(p.path)}>
              Remove
            </Quiet>
          </li>
        ))}
      </ul>
    </article>
  );
}
