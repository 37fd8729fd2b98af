import { useQuery } from "@tanstack/react-query";
import { memo, useState } from "react";
import { useNavigate } from "react-router-dom";
import type { Glass as GlassFacts, Module } from "../../api/client";
import { glassQuery, type Drawn } from "../../api/glasses";
import { Glass } from "../../parts/glass/Glass";
import { CELL_COLS } from "../../parts/glass/metrics";
import { Icon } from "../../ui/Icon";
import { StateDot } from "../../ui/StateDot";
import { useBench } from "../../work/BenchContext";
import { linkKinds } from "../../work/linkKinds";
import { reason } from "../../work/reason";
import { Bare } from "../../ui/Bare";
import { Quiet } from "../../ui/Quiet";
import css from "./ModuleTile.module.css";

interface Props {
  module: Module;
  /** It is on the dock. */
  chosen: boolean;
  onChoose: () => void;
}

/** One module as it lies on the table, with its live glass. */
export function ModuleTile({ module, chosen, onChoose }: Props) {
  const { id, bench, setupOf, addModules, removeModule } = useBench();
  const navigate = useNavigate();
  const [short, setShort] = useState<string>();
  const { data: drawn, error } = useQuery(glassQuery(setupOf(module)));
  const name = module.name || "Unnamed module";
  const { kind } = module.link;
  return (
    <article className={css.tile} data-chosen={chosen || undefined} aria-label={name}>
      <Bare className={css.board} title={`Put ${name} on the dock`} onClick={onChoose}>
        {drawn ? (
          <Picture glass={drawn.glass} module={module} />
        ) : (
          <span>{(error ? reason(error) : undefined) ?? "Simulating…"}</span>
        )}
      </Bare>
      <h3>
        <State drawn={drawn} />
        {name}
      </h3>
      <p>
        {module.display.geometry.split("@")[0]} {module.display.technology.toUpperCase()}, {linkKinds[kind]}
      </p>
      {short && <p role="alert">{short}</p>}
      <div className={css.doing}>
        <Quiet onClick={() => void navigate(`/benches/${id}/${module.id}/screens`)}>Compose</Quiet>
        <Quiet
          aria-label={`Add one like ${name}`}
          title="Add one like it"
          onClick={() => void addModules(module, 1).then(setShort)}
        >
          <Icon name="plus" size={17} />
        </Quiet>
        {bench.modules.length > 1 && (
          <Quiet
            aria-label={`Take ${name} away`}
            title="Take it away (undo brings it back)"
            onClick={() => removeModule(module.id)}
          >
            <Icon name="bin" size={17} />
          </Quiet>
        )}
      </div>
    </article>
  );
}

/** Pixels of a tile's width that the glass has. */
const ROOM = 196;

const Picture = memo(function Picture({ glass, module }: { glass: GlassFacts; module: Module }) {
  const pitch = Math.min(2, Math.floor((ROOM / (glass.cols * CELL_COLS)) * 4) / 4);
  return <Glass glass={glass} tint={module.display.tint} pitch={pitch} name={module.name || "the module"} />;
});

/** Whether anything is found on a module. */
function State({ drawn }: { drawn: Drawn | undefined }) {
  if (!drawn) return null;
  const { open } = drawn;
  return (
    <>
      <StateDot open={open > 0} title={open ? `${open} findings` : "nothing found"} />
      <span className="unseen">{open ? `${open} findings: ` : "nothing found: "}</span>
    </>
  );
}
