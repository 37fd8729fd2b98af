import type { WiringResult } from "../../api/client";
import { Choice } from "../../ui/Choice";
import { useBench } from "../../work/BenchContext";
import { Quiet } from "../../ui/Quiet";
import { ContrastCurve } from "./ContrastCurve";
import { LightTable } from "./LightTable";
import type { Picked } from "./Drawing";
import type { TableEdit } from "../../work/useTableEdit";
import css from "./PartCard.module.css";

interface Props {
  result: WiringResult;
  edit: TableEdit;
  picked: Picked;
}

/** What is picked on the table: what it is for, how to know it, its pins, and what is worked out for it. */
export function PartCard({ result, edit, picked }: Props) {
  if (picked && "wire" in picked) return <WireCard result={result} edit={edit} number={picked.wire} />;
  const thing = picked && result.things.find((t) => t.id === picked.thing);
  if (!thing)
    return (
      <p className={css.hint}>
        Pick a part, a pin or a wire in the drawing: here stands what it is for, how to know it, and what its figures
        come to.
      </p>
    );
  const pot = thing.kind === "pot" && thing.module !== undefined ? thing.module : undefined;
  return (
    <section className={css.card} aria-label={thing.name}>
      <h2>{thing.name}</h2>
      <p className={css.title}>{thing.title}</p>
      <p>{thing.for}</p>
      <p className={css.look}>{thing.look}</p>
      {pot !== undefined && (
        <label className={css.knob}>
          Knob
          <input
            type="range"
            min={0}
            max={1}
            step={0.005}
            value={thing.turn ?? 0}
            onChange={(e) => edit.turnKnob(pot, Number(e.target.value))}
          />
          <output>{Math.round((thing.turn ?? 0) * 100)} %</output>
          <small>left: VO at ground, darkest · right: VO at VDD, palest</small>
        </label>
      )}
      {thing.placement !== undefined && (
        <p className={css.hint}>Drag it, or move it with the arrow keys; R turns it by a quarter.</p>
      )}
      {thing.module !== undefined && <Fittings result={result} index={thing.module} kind={thing.kind} />}
      <table>
        <thead>
          <tr>
            <th scope="col">Pin</th>
            <th scope="col">Hole</th>
            <th scope="col">Net</th>
          </tr>
        </thead>
        <tbody>
          {thing.pins
            .filter((p) => thing.kind !== "host" || p.net)
            .map((p) => (
              <tr key={p.name}>
                <th scope="row">
                  {p.says}
                  {p.for && <small>{p.for}</small>}
                  {p.level && <small>Level: {p.level}</small>}
                  {p.open && <small>Open: {p.open}</small>}
                </th>
                <td>
                  <code>{p.hole?.split("/")[1] ?? "–"}</code>
                </td>
                <td>{p.netCalled ?? "open"}</td>
              </tr>
            ))}
        </tbody>
      </table>
    </section>
  );
}

/** A wire: its ends, its colour, and the way to take it away. */
function WireCard({ result, edit, number }: { result: WiringResult; edit: TableEdit; number: number }) {
  const { bench, change } = useBench();
  const w = result.wires.find((o) => o.number === number);
  if (!w) return null;
  const net = result.nets.find((n) => n.name === w.net);
  const each = bench.wiring?.eachLine ?? false;
  const what = (each && net?.line) || (net?.what ?? w.net);
  return (
    <section className={css.card} aria-label={`Wire ${number}`}>
      <h2>Wire {number}</h2>
      <p>
        {w.called.net}, {w.lengthMM} mm
      </p>
      <dl className={css.ends}>
        <dt>from</dt>
        <dd>
          <code>{w.fromHole || w.called.from}</code> {w.fromHole && w.called.from}
        </dd>
        <dt>to</dt>
        <dd>
          <code>{w.toHole || w.called.to}</code> {w.toHole && w.called.to}
        </dd>
      </dl>
      <Choice label="Colour of this wire" value={w.colour} onChange={(v) => edit.paint(number - 1, v)}>
        {result.palette.map((c) => (
          <option key={c}>{c}</option>
        ))}
      </Choice>
      <Choice
        label={`Colour of all wires of ${what}`}
        value={net?.colour ?? w.colour}
        onChange={(v) =>
          change((b) => {
            const nets = new Set(
              result.nets.filter((n) => n.what === what || (each && n.line === what)).map((n) => n.name),
            );
            const mine = new Set(result.wires.filter((o) => nets.has(o.net)).map((o) => o.number - 1));
            const wires = (b.wiring?.wires ?? []).map((o, i) => (mine.has(i) ? { ...o, colour: v } : o));
            return { ...b, wiring: { ...b.wiring, wires, colours: { ...b.wiring?.colours, [what]: v } } };
          })
        }
      >
        {result.palette.map((c) => (
          <option key={c}>{c}</option>
        ))}
      </Choice>
      <Quiet onClick={() => edit.removeWire(number - 1)}>Take the wire away</Quiet>
      <p className={css.hint}>
        Drag an end to another hole, or move it there with the arrow keys. Draw from a free hole to another for a new
        wire.
      </p>
    </section>
  );
}

/** What a module is wired up with, and what its figures come to. */
function Fittings({ result, index, kind }: { result: WiringResult; index: number; kind: string }) {
  const { bench, change } = useBench();
  const module = bench.modules[index];
  if (!module || kind === "backpack") return null;
  const fitting = module.fitting ?? {};
  const set = (next: typeof fitting) =>
    change((b) => ({
      ...b,
      modules: b.modules.map((m, i) => (i === index ? { ...m, fitting: { ...m.fitting, ...next } } : m)),
    }));
  const lcd = module.display.technology !== "vfd";
  return (
    <>
      {kind === "module" && (
        <div className={css.fittings}>
          {lcd && (
            <Choice
              label="Contrast by"
              value={fitting.contrast ?? "pot"}
              onChange={(v) => set({ contrast: v as "pot" | "ground" | "resistor" })}
            >
              <option value="pot">a potentiometer</option>
              <option value="resistor">a resistor to ground</option>
              <option value="ground">VO at ground: darkest</option>
            </Choice>
          )}
          <Choice
            label="The module lies"
            value={fitting.beside ? "beside" : "in"}
            onChange={(v) => set({ beside: v === "beside" || undefined })}
          >
            <option value="in">in the breadboard</option>
            <option value="beside">beside it, on jumpers</option>
          </Choice>
          {result.laid && (
            <p className={css.hint}>Such a choice changes what has to lie there: plan afresh, or mend it by hand.</p>
          )}
        </div>
      )}
      {lcd && (kind === "pot" || kind === "module") && (
        <ContrastCurve module={module} onPot={(potOhm) => set({ potOhm })} />
      )}
      {lcd && (kind === "resistor" || kind === "module") && (
        <LightTable module={module} onOhm={(lightOhm) => set({ lightOhm })} onWish={(lightMA) => set({ lightMA })} />
      )}
    </>
  );
}
