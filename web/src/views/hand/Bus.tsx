import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { planQuery } from "../../api/queries";
import { Findings } from "../../parts/findings/Findings";
import type { Match } from "../../parts/scan/match";
import { Scan } from "../../parts/scan/Scan";
import { Trouble } from "../../parts/trouble/Trouble";
import { useBench } from "../../work/BenchContext";
import { planOf } from "../../work/setup";
import { useSteady } from "../../work/useSteady";
import css from "./hand.module.css";

/** Who answers where, how the pads must be, and a place for what a scanner printed. */
export default function Bus() {
  const { bench } = useBench();
  const { data: plan, trouble, again } = useSteady(useQuery(planQuery(planOf(bench))));
  const [matches, setMatches] = useState<Match[]>([]);
  if (!plan) return trouble ? <Trouble trouble={trouble} stale={false} again={again} /> : <p>Looking at the bus…</p>;
  const found = plan.findings.filter((f) => /^(bus|supply|link)\./.test(f.code));
  return (
    <section className={css.view} aria-label="Bus">
      <p>
        SDA is {plan.host.sda}, SCL is {plan.host.scl} of the host.
      </p>
      {plan.nodes.length === 0 ? (
        <p className={css.note}>Nothing is on the bus.</p>
      ) : (
        <table className={css.facts}>
          <caption className="unseen">Addresses</caption>
          <tbody>
            {plan.nodes.map((n) => {
              const seen = matches.find((m) => m.hex === n.address.hex);
              return (
                <tr key={n.id}>
                  <th scope="row">
                    {n.name || n.part}
                    <br />
                    <small>{n.what}</small>
                  </th>
                  <td>
                    <code>{n.address.hex}</code> ({n.address.decimal})
                    {n.pads && (
                      <>
                        <br />
                        <small>{n.pads.map((closed, i) => `A${i} ${closed ? "closed" : "open"}`).join(", ")}</small>
                      </>
                    )}
                    {seen && (
                      <>
                        <br />
                        <small>{seen.says}</small>
                      </>
                    )}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
      <Scan bench={planOf(bench)} nodes={plan.nodes} onMatches={setMatches} />
      {found.length > 0 && <Findings findings={found} />}
    </section>
  );
}
