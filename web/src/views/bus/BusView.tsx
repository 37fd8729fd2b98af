import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { planQuery } from "../../api/queries";
import { Findings } from "../../parts/findings/Findings";
import { Trouble } from "../../parts/trouble/Trouble";
import { useBench } from "../../work/BenchContext";
import { planOf } from "../../work/setup";
import { useSteady } from "../../work/useSteady";
import { AddressLine } from "./AddressLine";
import { Electrics } from "./Electrics";
import { Expander } from "./Expander";
import { Levels } from "./Levels";
import { NodeRow } from "./NodeRow";
import { Scan } from "../../parts/scan/Scan";
import { Supply } from "./Supply";
import type { Match } from "../../parts/scan/match";
import { Term } from "../../ui/Term";
import css from "./BusView.module.css";

/** The bus: who answers where, what a scan shows, and what pull-ups, levels and currents come to. */
export default function BusView() {
  const { bench } = useBench();
  const slim = planOf(bench);
  const { data: plan, trouble, again } = useSteady(useQuery(planQuery(slim)));
  const [matches, setMatches] = useState<Match[]>([]);
  const troubled = <Trouble trouble={trouble} stale={plan !== undefined} again={again} />;
  if (!plan) return trouble ? troubled : <p>Looking at the bus…</p>;
  const about = plan.findings.filter((f) => /^(bus|supply|link)\./.test(f.code));
  return (
    <div className={css.view}>
      <div className={css.main}>
        {troubled}
        <div>
          <AddressLine nodes={plan.nodes} matches={matches} />
        </div>
        <section aria-label="Parts on the bus">
          <h2>
            {plan.nodes.length === 1 ? "One part" : `${plan.nodes.length} parts`} on the <Term of="bus" />{" "}
            <small>
              SDA {plan.host.sda}, SCL {plan.host.scl}
            </small>
          </h2>
          {plan.nodes.length === 0 && (
            <p className={css.note}>
              Nothing yet. A module with a backpack comes onto the bus by its link, anything else by “Device” in the
              Bench view.
            </p>
          )}
          <ul className={css.nodes}>
            {plan.nodes.map((n) => (
              <li key={n.path}>
                <NodeRow node={n} />
              </li>
            ))}
          </ul>
          <Expander />
        </section>
        <Electrics plan={plan} />
        <Levels plan={plan} />
        <Supply plan={plan} />
      </div>
      <aside className={css.side}>
        <Findings
          findings={about}
          none="None: every part has its own address, every level and current is within its limits."
        />
        <Scan bench={slim} nodes={plan.nodes} onMatches={setMatches} />
      </aside>
    </div>
  );
}
