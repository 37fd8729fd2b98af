import type { Photograph } from "../../api/photos";
import { Glass } from "../glass/Glass";
import { CELL_COLS, GLASS_MARGIN, rowPitch } from "../glass/metrics";
import { groundOf } from "../glass/paint";
import { tintOf } from "../glass/tints";
import css from "./Photograph.module.css";

interface Props {
  read: Photograph;
  tint: string | undefined;
  /** CSS pixels that a glass may take across. */
  width: number;
}

/** The glass as it is photographed and as it is composed, one above the other; cells that differ are marked on both. */
export function TwoGlasses({ read, tint, width }: Props) {
  const { real, composed, cells } = read;
  if (!composed) return null;
  const pitch = Math.max(1, Math.min(3, Math.floor((4 * width) / (real.cols * CELL_COLS + 4)) / 4));
  return (
    <div className={css.two} role="group" aria-label="Real beside composed">
      {[
        { glass: real, name: "As it is photographed" },
        { glass: composed, name: "As it is composed" },
      ].map(({ glass, name }) => (
        <figure key={name}>
          <div
            className={css.glass}
            style={{ padding: GLASS_MARGIN * pitch, background: groundOf(glass, tintOf(tint)) }}
          >
            <div className={css.area}>
              <Glass glass={glass} tint={tint} pitch={pitch} name={name} />
              {cells.map(
                (c, i) =>
                  c.other && (
                    <span
                      key={i}
                      className={css.other}
                      style={{
                        left: ((i % glass.cols) * CELL_COLS - 0.5) * pitch,
                        top: (Math.floor(i / glass.cols) * rowPitch(glass) - 0.5) * pitch,
                        width: CELL_COLS * pitch,
                        height: rowPitch(glass) * pitch,
                      }}
                    />
                  ),
              )}
            </div>
          </div>
          <figcaption>{name}</figcaption>
        </figure>
      ))}
    </div>
  );
}
