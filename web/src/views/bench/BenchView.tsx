import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router-dom";
import type { Finding } from "../../api/client";
import { checkQuery, planQuery } from "../../api/queries";
import { Findings } from "../../parts/findings/Findings";
import { Trouble } from "../../parts/trouble/Trouble";
import { useBench, useSavingState } from "../../work/BenchContext";
import { planOf } from "../../work/setup";
import { useSteady } from "../../work/useSteady";
import { DevicePanel } from "./DevicePanel";
import { HostPanel } from "./HostPanel";
import { ModulePanel } from "./ModulePanel";
import { NewDevice } from "./NewDevice";
import { PartPanel } from "./PartPanel";
import { TableDrawing, type Thing } from "./TableDrawing";
import css from "./BenchView.module.css";

/** The table as a drawing: host, supply, bus and all that is joined; what is clicked is worked on beside it. */
export default function BenchView() {
  const { id, bench, module, selectModule } = useBench();
  const { revision } = useSavingState();
  const navigate = useNavigate();
  const { data: plan, trouble, again } = useSteady(useQuery(planQuery(planOf(bench))));
  const { data: found, trouble: unchecked, again: checkAgain } = useSteady(useQuery(checkQuery(id, revision)));
  const [picked, setPicked] = useState<Thing>({ kind: "module", id: module.id });
  const thing: Thing = picked.kind === "module" ? { kind: "module", id: module.id } : picked;
  const device = (bench.devices ?? []).find((d) => d.id === thing.id);
  const part = (bench.parts ?? []).find((p) => p.id === thing.id);
  const pick = (t: Thing) => {
    setPicked(t);
    if (t.kind === "module") selectModule(t.id);
  };
  const placeOf = (f: Finding) => {
    const own = /^\/parts\/(\d+)/.exec(f.path ?? "");
    const named = own && bench.parts?.[Number(own[1])];
    if (named) return { name: named.name ?? named.id, go: () => pick({ kind: "part", id: named.id }) };
    const at = /^\/(modules|devices)\/(\d+)/.exec(f.path ?? "");
    const m = at?.[1] === "modules" ? bench.modules[Number(at[2])] : undefined;
    if (f.code.startsWith("bus.") || f.code.startsWith("supply.")) {
      return { name: "the bus", go: () => void navigate(`/benches/${id}/${module.id}/bus`) };
    }
    if (!m) return undefined;
    const view = f.cells ? "screens" : f.code.startsWith("host.") ? "bench" : "module";
    return { name: m.name || "the module", go: () => void navigate(`/benches/${id}/${m.id}/${view}`) };
  };
  const grave = found?.some((f) => f.severity !== "note"); // what is wrong stands first
  const list = (
    <>
      <Trouble trouble={unchecked} stale={found !== undefined} again={checkAgain} />
      {found && (
        <Findings
          findings={found}
          onPlace={placeOf}
          none="None on this bench: every part has its own address and pins, every level and current is within its limits, every glass shows its screen."
        />
      )}
    </>
  );
  return (
    <div className={css.view}>
      <section className={css.table} aria-label="The table">
        <Trouble trouble={trouble} stale={plan !== undefined} again={again} />
        {plan ? <TableDrawing plan={plan} picked={thing} onPick={pick} /> : !trouble && <p>Laying the table…</p>}
      </section>
      <aside className={css.side}>
        {grave ? list : <Next onBus={(plan?.nodes.length ?? 0) > 0} />}
        {thing.kind === "host" && plan && <HostPanel plan={plan} />}
        {thing.kind === "new" && <NewDevice onPick={pick} onCancel={() => pick({ kind: "module", id: module.id })} />}
        {thing.kind === "device" && device && (
          <DevicePanel
            device={device}
            plan={plan}
            onGone={() => pick({ kind: "module", id: module.id })}
            onPick={pick}
          />
        )}
        {thing.kind === "part" && part && (
          <PartPanel part={part} plan={plan} onGone={() => pick({ kind: "module", id: module.id })} />
        )}
        {(thing.kind === "module" || (thing.kind === "device" && !device) || (thing.kind === "part" && !part)) && (
          <ModulePanel />
        )}
        {!grave && list}
      </aside>
    </div>
  );
}

/** What comes next on a table on which nothing is amiss and nothing is composed yet. */
function Next({ onBus }: { onBus: boolean }) {
  const { id, module, screen } = useBench();
  if (screen.rows.some((r) => r.trim() !== "")) return null;
  return (
    <p className={css.next}>
      The table is laid. Next:{" "}
      {onBus && (
        <>
          <Link to={`/benches/${id}/${module.id}/bus`}>scan the bus</Link> before you program, then{" "}
        </>
      )}
      <Link to={`/benches/${id}/${module.id}/screens`}>compose the first screen</Link>.
    </p>
  );
}
