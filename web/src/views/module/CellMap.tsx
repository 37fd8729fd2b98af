import { useMoment } from "../../work/useRun";
import type { Controller, RunResult } from "../../api/client";
import { useBase } from "../../ui/places";
import { useStep } from "../../work/StepContext";
import { digits, hex } from "../../ui/numbers";
import { Term } from "../../ui/Term";
import css from "./CellMap.module.css";

/** The controllers' display memory by address: which cell shows each byte, and what lies outside the window. */
export function CellMap({ run }: { run: RunResult }) {
  const moment = useMoment(run.id, run.program.steps.length);
  const controllers = moment?.controllers ?? [];
  return (
    <section aria-label="Addresses">
      <h2>
        <Term of="DDRAM" /> addresses
      </h2>
      <p className="lead">
        Hexadecimal. Lit places are in the window, each row from its mark on; the others are memory that is not shown.
      </p>
      {controllers.map((c, i) => (
        <Memory key={i} controller={c} cols={run.glass.cols} name={controllers.length > 1 ? `E${i ? 2 : ""}` : ""} />
      ))}
    </section>
  );
}

function Memory({ controller: c, cols, name }: { controller: Controller; cols: number; name: string }) {
  const { mark, setMark } = useStep();
  const base = useBase();
  return (
    <div className={css.map} onPointerLeave={() => setMark(null)} aria-label={name ? `Behind ${name}` : undefined}>
      {c.addresses.map((address, i) => {
        const cell = c.window[i] ?? -1;
        const row = cell < 0 ? undefined : Math.floor(cell / cols);
        return (
          <span
            key={i}
            data-row={row}
            data-marked={(cell >= 0 && cell === mark) || undefined}
            title={
              row === undefined
                ? `${hex(address)}: not shown`
                : `${hex(address)}: row ${row + base}, column ${(cell % cols) + base}`
            }
            onPointerEnter={() => setMark(cell >= 0 ? cell : null)}
          >
            <small>{row !== undefined && cell % cols === 0 && `row ${row + base}`}</small>
            {digits(address)}
          </span>
        );
      })}
    </div>
  );
}
