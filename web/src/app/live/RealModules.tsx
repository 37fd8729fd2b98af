import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { faultsQuery } from "../../api/faults";
import type { Setup } from "../../api/client";
import { putIn, type RealTable } from "../../api/realTable";
import { StandInGlass } from "../../parts/glass/StandInGlass";
import { List } from "../../ui/List";
import { useBench } from "../../work/BenchContext";
import { reason } from "../../work/reason";
import { Tells } from "./Tells";
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
              {table.standIn && (
                <StandInGlass
                  module={i}
                  tint={doc.display.tint}
                  width={190}
                  name={`The stand-in’s ${doc.name || "module"}`}
                />
              )}
              {table.standIn && <Faulty module={i} setup={setupOf(doc)} name={doc.name || "module"} />}
              {m.reads ? <Tells at={i} module={doc} /> : <small>cannot be read: {m.why}</small>}
            </li>
          )
        );
      })}
    </ul>
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
