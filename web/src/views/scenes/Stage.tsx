import type { Module } from "../../api/client";
import { Glass } from "../../parts/glass/Glass";
import { CELL_COLS, GLASS_MARGIN } from "../../parts/glass/metrics";
import { groundOf } from "../../parts/glass/paint";
import { tintOf } from "../../parts/glass/tints";
import type { Part } from "../../work/usePlay";
import css from "./Stage.module.css";

/** The glasses as the simulated modules show them. */
export function Stage({ parts, modules }: { parts: Part[]; modules: Module[] }) {
  const one = modules.length === 1;
  return (
    <div className={css.stage} data-many={!one || undefined}>
      {modules.map((m) => {
        const part = parts.find((p) => p.module === m.id);
        const glass = part?.glass;
        const cols = glass?.cols ?? 16;
        const pitch = one
          ? Math.min(4, Math.floor((760 / (cols * CELL_COLS)) * 2) / 2, (glass?.rows ?? 2) > 2 ? 3 : 4)
          : 1.5;
        return (
          <figure key={m.id} className={css.glass}>
            {glass ? (
              <div
                className={css.bezel}
                style={{ padding: GLASS_MARGIN * pitch, background: groundOf(glass, tintOf(m.display.tint)) }}
              >
                <Glass glass={glass} tint={m.display.tint} pitch={pitch} name={m.name || "the module"} />
              </div>
            ) : (
              <p className={css.wait}>The module is being initialised…</p>
            )}
            <figcaption>
              {!one && <b>{m.name || m.id}: </b>}
              {m.show?.scenes?.[part?.state.scene ?? 0]?.name ?? "its first screen"}
              {part?.state.typing && (
                <>
                  ; {part.state.typing.field} is {part.state.typing.value}
                </>
              )}
            </figcaption>
          </figure>
        );
      })}
    </div>
  );
}
