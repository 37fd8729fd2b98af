import type { RunResult } from "../api/client";
import { useStep } from "../steps/StepContext";
import css from "./CellMap.module.css";

/** Which DDRAM address each cell has. */
export function CellMap({ run }: { run: RunResult }) {
  const { mark, setMark } = useStep();
  const { cols } = run.glass;
  const two = run.cells.some((c) => c.controller > 0);
  return (
    <section aria-label="Addresses">
      <h2>DDRAM address of each cell</h2>
      <p className={css.note}>
        Hexadecimal, row by row{two && "; rows 3 and 4 belong to the second controller, behind E2"}. What lies outside
        the window is in the run view's memory map.
      </p>
      <div
        className={css.map}
        style={{ gridTemplateColumns: `repeat(${cols}, minmax(0, 1fr))`, fontSize: cols > 24 ? 10 : 13 }}
        onPointerLeave={() => setMark(null)}
      >
        {run.cells.map((c, i) => (
          <span
            key={i}
            data-second={c.controller > 0 || undefined}
            data-marked={i === mark || undefined}
            onPointerEnter={() => setMark(i)}
          >
            {c.address.toString(16).toUpperCase().padStart(2, "0")}
          </span>
        ))}
      </div>
    </section>
  );
}
