import type { Glyph } from "../../api/client";
import { useBench } from "../../work/BenchContext";
import { useSlots } from "../../work/useSlots";
import { charOf } from "../../work/typing/rows";
import { useGlass } from "../../work/GlassContext";
import { Icon } from "../../ui/Icon";
import { dotPath } from "../../parts/dots/dotPath";
import { Term } from "../../ui/Term";
import { Bare } from "../../ui/Bare";
import css from "./Slots.module.css";

/** The eight slots of CGRAM: what they hold, to type and to empty. */
export function Slots() {
  const { module, changeModule } = useBench();
  const { typistRef } = useGlass();
  const slots = useSlots();
  const glyphs = module.glyphs ?? [];
  const empty = (slot: number) => changeModule((m) => ({ ...m, glyphs: m.glyphs?.filter((g) => g.slot !== slot) }));
  return (
    <section aria-label="Slots">
      <h2>
        <Term of="glyph">Glyphs</Term> in <Term of="CGRAM" />
      </h2>
      <p className="lead">
        {glyphs.length === 0
          ? "None yet. Draw them on the glyph desk; or type a character that the ROM lacks: the findings offer to draw it."
          : "Click one to type it at the cursor."}
      </p>
      <div className={css.slots}>
        {slots.map(({ slot, code }) => {
          const glyph = glyphs.find((g) => g.slot === slot);
          return (
            <div key={slot} className={css.slot}>
              <Bare
                disabled={!glyph}
                aria-label={glyph ? `Type ${glyph.name}, slot ${slot}` : `Slot ${slot}, empty`}
                title={glyph?.name}
                onClick={() => typistRef.current(charOf(code))}
              >
                <Picture glyph={glyph} />
                {slot}
              </Bare>
              {glyph && (
                <Bare
                  className={css.empty}
                  aria-label={`Empty slot ${slot}`}
                  title={`Empty slot ${slot}`}
                  onClick={() => empty(slot)}
                >
                  <Icon name="close" size={12} />
                </Bare>
              )}
            </div>
          );
        })}
      </div>
    </section>
  );
}

function Picture({ glyph }: { glyph: Glyph | undefined }) {
  return (
    <svg viewBox="0 0 5 8" aria-hidden="true">
      <path d={dotPath(glyph?.rows ?? [])} />
    </svg>
  );
}
