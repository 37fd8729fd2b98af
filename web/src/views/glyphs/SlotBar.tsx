import { Cells } from "../../parts/dots/Cells";
import { Icon } from "../../ui/Icon";
import { useBench } from "../../work/BenchContext";
import { heightOf, tall, type Target } from "../../work/glyphs";
import { Term } from "../../ui/Term";
import { Bare } from "../../ui/Bare";
import { useSlots } from "../../work/useSlots";
import css from "./SlotBar.module.css";

interface Props {
  target: Target;
  onChoose: (t: Target) => void;
}

/** The slots of the selected module's CGRAM: what stands in each for all of its screens. */
export function SlotBar({ target, onChoose }: Props) {
  const { module, changeModule } = useBench();
  const height = heightOf(module);
  const glyphs = module.glyphs ?? [];
  const slots = useSlots().map((s) => s.slot);
  const odd = glyphs.filter((g) => !slots.includes(g.slot)).map((g) => g.slot);
  return (
    <section className={css.bar} aria-label="Slots of the module">
      <h2>
        <Term of="CGRAM" /> <Term of="slot">slots</Term>
      </h2>
      <div className={css.slots}>
        {[...slots, ...odd].map((slot) => {
          const glyph = glyphs.find((g) => g.slot === slot);
          const here = target.kind === "slot" && target.slot === slot;
          return (
            <div key={slot} className={css.slot} data-empty={!glyph || undefined}>
              <Bare
                aria-pressed={here}
                aria-label={`Slot ${slot}: ${glyph ? glyph.name || "unnamed" : "empty, draw in it"}`}
                title={glyph ? glyph.name || "unnamed" : "Empty: draw in it"}
                onClick={() => onChoose({ kind: "slot", slot })}
              >
                {glyph ? <Cells cells={[tall(glyph.rows, height)]} cols={1} dot={4} /> : <Icon name="plus" size={18} />}
                <small>{slot}</small>
              </Bare>
              {glyph && (
                <Bare
                  className={css.empty}
                  aria-label={`Empty slot ${slot}`}
                  title={`Empty slot ${slot}`}
                  onClick={() => changeModule((m) => ({ ...m, glyphs: m.glyphs?.filter((g) => g.slot !== slot) }))}
                >
                  <Icon name="close" size={12} />
                </Bare>
              )}
            </div>
          );
        })}
      </div>
      <p className={css.note}>
        {glyphs.length === 0
          ? "All free: glyphs of the library are given slots as screens show them."
          : `${slots.length - glyphs.length} free for glyphs of the library.`}
      </p>
    </section>
  );
}
