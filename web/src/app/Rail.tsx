import { useQuery } from "@tanstack/react-query";
import { memo, useEffect, useState } from "react";
import { NavLink } from "react-router-dom";
import { logQuery } from "../api/faults";
import { checkQuery } from "../api/queries";
import { Icon } from "../ui/Icon";
import { useBench, useSavingState } from "../work/BenchContext";
import { useHeldRecording, type HeldRecording } from "../work/recordings";
import { laid } from "../work/setup";
import { useRun } from "../work/useRun";
import { groups, stateText, type View, type ViewState } from "./views";
import css from "./Shell.module.css";

/** The whole bench is checked once nothing was changed for this long, in milliseconds. */
const REST_MS = 1200;

/** The views in the order of the work, each with how far bench or module have come. */
export function Rail() {
  const { id, bench, module, screen } = useBench();
  const { data: run } = useRun();
  const { revision } = useSavingState();
  const [rested, setRested] = useState(revision);
  useEffect(() => {
    const timer = window.setTimeout(() => setRested(revision), REST_MS);
    return () => window.clearTimeout(timer);
  }, [revision]);
  const { data: everywhere } = useQuery(checkQuery(id, rested));
  const { data: log } = useQuery(logQuery(id));
  const onBus = bench.modules.some((m) => m.link.kind === "backpack") || (bench.devices ?? []).length > 0;
  const facts = {
    onBus,
    onTable: laid(bench),
    recorded: recordedState(useHeldRecording(id)),
    noted: (log?.total ?? 0) > 0,
    drawn: (bench.glyphs ?? []).length > 0 || (module.glyphs ?? []).length > 0,
    staged: (module.show?.scenes ?? []).length > 0,
    empty: screen.rows.length === 0,
    findings: run?.findings ?? [],
    everywhere,
    here: (everywhere ?? []).filter((f) => f.path?.startsWith(`/modules/${bench.modules.indexOf(module)}/`)),
  };
  return (
    <nav className={css.rail} aria-label="Order of the work">
      {groups.map((g) => (
        <div key={g.title} role="group" aria-label={g.title} className={css.group}>
          <span className={css.groupTitle} aria-hidden="true">
            {g.title}
          </span>
          {g.views.map((v) => (
            <RailLink key={v.path} view={v} to={`/benches/${id}/${module.id}/${v.path}`} state={v.state(facts)} />
          ))}
        </div>
      ))}
    </nav>
  );
}

/** How far a recording has come that is held. */
const recordedState = (held: HeldRecording | undefined): ViewState => (!held ? "idle" : held.open ? "open" : "done");

const RailLink = memo(function RailLink({ view, to, state }: { view: View; to: string; state: ViewState }) {
  return (
    <NavLink to={to} className={css.link} aria-label={`${view.title}: ${stateText[state]}`}>
      <Icon name={view.icon} size={24} />
      {view.title}
      <span className={css.state} data-state={state} title={stateText[state]} />
    </NavLink>
  );
});
