import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "react-router-dom";
import type { Finding } from "../../api/client";
import { checkQuery } from "../../api/queries";
import { Findings } from "../../parts/findings/Findings";
import { useBench, useSavingState } from "../../work/BenchContext";
import { ModuleTile } from "./ModuleTile";
import { Table } from "./Table";
import css from "./BenchView.module.css";

/** All modules of the bench with their glasses, what else is on its bus, and what is found on any of them. */
export default function BenchView() {
  const { id, bench, module, selectModule, addModule } = useBench();
  const { revision } = useSavingState();
  const navigate = useNavigate();
  const { data: found, error } = useQuery(checkQuery(id, revision));
  const placeOf = (f: Finding) => {
    const at = /^\/modules\/(\d+)/.exec(f.path ?? "")?.[1];
    const about = at === undefined ? undefined : bench.modules[Number(at)];
    if (!about) return undefined;
    const view = f.cells ? "screens" : "module";
    return { name: about.name || "the module", go: () => void navigate(`/benches/${id}/${about.id}/${view}`) };
  };
  return (
    <div className={css.view}>
      <section className={css.modules} aria-label="Modules on the bench">
        <header>
          <h2>
            {bench.modules.length === 1 ? "One module" : `${bench.modules.length} modules`}{" "}
            <small>as they show now</small>
          </h2>
          <button type="button" className="quiet" onClick={() => addModule(module)}>
            Add one like {module.name || "this"}
          </button>
        </header>
        <div className={css.tiles}>
          {bench.modules.map((m) => (
            <ModuleTile
              key={m.id}
              module={m}
              chosen={m.id === module.id}
              onChoose={() => selectModule(m.id)}
              onOpen={() => void navigate(`/benches/${id}/${m.id}/screens`)}
            />
          ))}
        </div>
      </section>
      <aside className={css.side}>
        <Table bench={bench} />
        {error ? (
          <p role="alert">{error.message}</p>
        ) : (
          found && (
            <Findings
              findings={found}
              onPlace={placeOf}
              none="None on any module: every glass shows its screen, and no limit of a data sheet is broken."
            />
          )
        )}
      </aside>
    </div>
  );
}
