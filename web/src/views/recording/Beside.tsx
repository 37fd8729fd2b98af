import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router-dom";
import { comparisonQuery, type Comparison, type Reading } from "../../api/recordings";
import { Bare } from "../../ui/Bare";
import { Quiet } from "../../ui/Quiet";
import { useBench } from "../../work/BenchContext";
import { sentence } from "../../work/reason";
import { stamp } from "./time";
import css from "./Beside.module.css";

/** Same pairs that stand before and after one that differs; more of them are counted only. */
const AROUND = 2;

const said = { same: "", missing: "is missing", added: "was added", changed: "was changed" } as const;

/** The recording beside what this bench's program sends: where they differ first, and which fault explains it. */
export function Beside({ reading, look }: { reading: Reading; look: (ns: number) => void }) {
  const { id, bench, module } = useBench();
  const at = bench.modules.indexOf(module);
  const { data, error } = useQuery(comparisonQuery(reading.id, bench, at));
  if (error) return <p role="alert">{sentence(error)}</p>;
  if (!data) return <p role="status">Holding it against the program of {module.name || "this module"}…</p>;
  const first = data.pairs[data.first];
  return (
    <section className={css.beside} aria-label="Beside this bench’s program">
      {data.findings.map((f) => (
        <p key={f.code} className={css.found} data-code={f.code}>
          {f.what} {f.why}
        </p>
      ))}
      <p>
        Nearest to the screen <b>{module.screens[data.screen]?.name || `${data.screen + 1}`}</b>
        {data.before > 0 && `; ${data.before} operations come before the recording begins`}
        {data.after > 0 && `; ${data.after.toLocaleString("en")} were recorded after its last`}.
      </p>
      {first && (
        <p>
          <Quiet size="small" disabled={first.atNs === undefined} onClick={() => look(first.atNs ?? 0)}>
            To the first difference
          </Quiet>
        </p>
      )}
      {(data.first >= 0 || !data.causes[0]?.sound) && <Causes data={data} to={`/benches/${id}/${module.id}/faults`} />}
      <ol className={css.pairs} aria-label="Operations beside each other">
        {around(data).map((row, i) =>
          typeof row === "number" ? (
            <li key={`skip ${i}`} className={css.skipped}>
              {row} alike
            </li>
          ) : (
            <li key={row.index} data-kind={row.pair.kind}>
              <Bare disabled={row.pair.atNs === undefined} onClick={() => look(row.pair.atNs ?? 0)}>
                <span>{row.pair.program ?? "–"}</span>
                <span>{row.pair.kind === "same" ? "" : (row.pair.recorded ?? said.missing)}</span>
                <small>{row.pair.atNs === undefined ? "" : stamp(row.pair.atNs)}</small>
              </Bare>
            </li>
          ),
        )}
      </ol>
      {data.more > 0 && <p>{data.more.toLocaleString("en")} more are not listed.</p>}
    </section>
  );
}

/** Faults that explain the difference, each with its share. */
function Causes({ data, to }: { data: Comparison; to: string }) {
  return (
    <>
      <h3>What explains it</h3>
      <ul className={css.causes} aria-label="What explains the difference">
        {data.causes.slice(0, 5).map((c) => (
          <li key={c.id} data-fault={c.id}>
            <b>{Math.round(c.share * 100)} %</b>
            <span>
              {c.sound ? "No fault of the catalogue: another program or another text" : c.what}
              {!c.sound && c.fix && <small> {c.fix}</small>}
            </span>
          </li>
        ))}
      </ul>
      <p>
        <Link to={to}>Find the fault by the glass</Link>
      </p>
    </>
  );
}

/** The pairs that differ with a few around them, and how many between are alike. */
function around(data: Comparison) {
  const near = new Set<number>();
  data.pairs.forEach((p, i) => {
    if (p.kind !== "same") for (let k = i - AROUND; k <= i + AROUND; k++) near.add(k);
  });
  const out: (number | { index: number; pair: Comparison["pairs"][number] })[] = [];
  let skipped = 0;
  data.pairs.forEach((pair, index) => {
    if (!near.has(index)) {
      skipped++;
      return;
    }
    if (skipped > 0) out.push(skipped);
    skipped = 0;
    out.push({ index, pair });
  });
  if (skipped > 0) out.push(skipped);
  return out;
}
