import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { faultsQuery } from "../../api/faults";
import type { Setup } from "../../api/client";
import { putIn, recall, standInQuery, type RealTable, type Recall } from "../../api/realTable";
import { Glass } from "../../parts/glass/Glass";
import { groundOf } from "../../parts/glass/paint";
import { tintOf } from "../../parts/glass/tints";
import { useBase } from "../../ui/places";
import { List } from "../../ui/List";
import { Quiet } from "../../ui/Quiet";
import { useBench } from "../../work/BenchContext";
import { reason } from "../../work/reason";
import css from "./Live.module.css";

/** The modules of the table: what each is taken to show, what it says itself, and what the stand-in's glass shows. */
export function RealModules({ table }: { table: RealTable }) {
  const { id, bench, setupOf } = useBench();
  if (table.bench !== id)
    return <p className={css.note}>It is driven for another bench. Disconnect it to drive this one.</p>;
  return (
    <ul className={css.modules}>
      {table.modules.map((m, i) => {
        const doc = bench.modules[i];
        const says =
          m.trouble ?? (m.waits ? "waits for the wire" : m.holds ? "shows what is composed" : "not known yet");
        return (
          doc && (
            <li key={doc.id}>
              <span>
                <b>{doc.name || "Unnamed module"}</b>
                <small data-trouble={m.trouble !== undefined || undefined}>
                  {says}
                  {m.dropped > 0 && `; ${m.dropped} older wishes dropped`}
                </small>
              </span>
              {table.standIn && <StandIn module={i} tint={doc.display.tint} name={doc.name || "module"} />}
              {table.standIn && <Faulty module={i} setup={setupOf(doc)} name={doc.name || "module"} />}
              {m.reads ? <Memory module={i} name={doc.name || "module"} /> : <small>cannot be read: {m.why}</small>}
            </li>
          )
        );
      })}
    </ul>
  );
}

/** The glass of a module of the stand-in. */
function StandIn({ module, tint, name }: { module: number; tint: string | undefined; name: string }) {
  const { data: glass } = useQuery(standInQuery(module));
  if (!glass) return null;
  return (
    <div className={css.glass} style={{ background: groundOf(glass, tintOf(tint)) }}>
      <Glass glass={glass} tint={tint} pitch={Math.max(0.8, 190 / (glass.cols * 6))} name={`The stand-in’s ${name}`} />
    </div>
  );
}

/** Puts a fault into a module of the stand-in, to be found. */
function Faulty({ module, setup, name }: { module: number; setup: Setup; name: string }) {
  const [open, setOpen] = useState(false);
  const [fault, setFault] = useState("");
  const [refused, setRefused] = useState<string>();
  const { data } = useQuery({ ...faultsQuery(setup), enabled: open });
  const choose = (of: string) => {
    setFault(of);
    putIn(module, of).then(
      () => setRefused(undefined),
      (e: unknown) => setRefused(reason(e)),
    );
  };
  return (
    <div className={css.fault}>
      <List
        aria-label={`Fault of the stand-in’s ${name}`}
        value={fault}
        onFocus={() => setOpen(true)}
        onChange={(e) => choose(e.target.value)}
      >
        <option value="">no fault put in</option>
        {data
          ?.filter((f) => f.topic !== "program" && f.topic !== "inputs")
          .map((f) => (
            <option key={f.id} value={f.id}>
              {f.what} {f.where}
            </option>
          ))}
      </List>
      {refused && <p role="alert">{refused}</p>}
    </div>
  );
}

/** Reads what a module holds, and holds it against what was sent. */
function Memory({ module, name }: { module: number; name: string }) {
  const [got, setGot] = useState<Recall>();
  const [refused, setRefused] = useState<string>();
  const base = useBase();
  const first = got?.differ[0];
  const read = () =>
    void recall(module).then(
      (r) => {
        setGot(r);
        setRefused(undefined);
      },
      (e: unknown) => setRefused(reason(e)),
    );
  return (
    <div className={css.memory}>
      <Quiet aria-label={`Read memory of ${name}`} onClick={read}>
        Read memory
      </Quiet>
      {refused && <p role="alert">{refused}</p>}
      {got && (
        <p role="status">
          {got.differ.length === 0
            ? "It holds what was sent."
            : `${got.differ.length} cells differ, the first in row ${(first?.row ?? 0) + base}, column ${(first?.col ?? 0) + base}.`}
          {got.lines.map((l) => (
            <b key={l}> {l}: its wire, or its joint.</b>
          ))}
          <code>{got.text.join("\n")}</code>
        </p>
      )}
    </div>
  );
}
