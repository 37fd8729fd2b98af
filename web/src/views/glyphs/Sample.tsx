import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { noExtras, runQuery } from "../../api/queries";
import type { Setup } from "../../api/client";
import { Glass } from "../../parts/glass/Glass";
import { groundOf } from "../../parts/glass/paint";
import { tintOf } from "../../parts/glass/tints";
import { useBench } from "../../work/BenchContext";
import { partsOf, trimmed, typed, type Sheet, type Target } from "../../work/glyphs";
import { Check } from "../../ui/Check";
import css from "./Sample.module.css";

/** Of a usual 16×2 module: the width of a cell with its gap, in millimetres (common practice); 96 pixels an inch. */
const CELL_MM = 3.55;
const REAL = ((CELL_MM / 6) * 96) / 25.4;

interface Props {
  target: Target;
  sheet: Sheet;
  codes: ReadonlyMap<number, number>;
}

/** The glyph among letters, as the simulated module shows it: at real size, and larger; with the cursor under it if wished. */
export function Sample({ target, sheet, codes }: Props) {
  const { bench, module, setup } = useBench();
  const [cursor, setCursor] = useState(false);
  const { data: run } = useQuery(
    runQuery(sampleOf(setup, typed(bench, target, codes).split("\n"), library(), cursor), noExtras),
  );

  /** What the sample shows: the drawings on the desk, as they are. */
  function library() {
    if (target.kind === "slot") return undefined;
    const drawings =
      target.kind === "picture" ? partsOf(bench, target.name) : bench.glyphs?.filter((d) => d.key === target.key);
    return drawings?.map((d) => ({ ...d, tags: undefined, rows: trimmed(d.rows) }));
  }
  if (!run) return null;
  const tint = tintOf(module.display.tint);
  return (
    <section className={css.sample} aria-label="Among letters">
      <div className={css.glasses}>
        {[Math.min(4, 240 / (run.glass.cols * 6)), REAL].map((pitch) => (
          <figure key={pitch}>
            <div className={css.glass} style={{ background: groundOf(run.glass, tint) }}>
              <Glass
                glass={run.glass}
                tint={module.display.tint}
                pitch={pitch}
                name={`${sheet.name || "the glyph"} among letters`}
              />
            </div>
            <figcaption>{pitch === REAL ? "Real size, as on a usual 16 × 2" : "Among letters"}</figcaption>
          </figure>
        ))}
      </div>
      <Check checked={cursor} onChange={(e) => setCursor(e.target.checked)}>
        with the cursor
      </Check>
    </section>
  );
}

/** A setup that shows cells among letters, on a module of eight columns. */
function sampleOf(setup: Setup, cells: string[], library: Setup["library"], cursor: boolean): Setup {
  const wide = Math.max(...cells.map((c) => Array.from(c).length));
  const fits = setup.display.controller.font !== "5x10";
  const rows = cells.map((c, i) => (i === 0 ? `Ag${c}8k` : `  ${c}`));
  return {
    ...setup,
    display: { ...setup.display, geometry: fits ? (wide > 4 || cells.length > 2 ? "20x4" : "8x2") : "8x1" },
    link: { kind: "parallel8", outputs: setup.link.outputs },
    joined: undefined,
    library,
    rows,
    cursor: cursor ? { kind: "line", row: 0, col: 2 } : undefined,
  };
}
