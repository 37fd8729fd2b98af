import { Icon } from "../../ui/Icon";
import { InlineText } from "../../ui/InlineText";
import { useBench } from "../../work/BenchContext";
import { freePicture, freeSlot, partsOf, sheetOf, withDrawings, type Target } from "../../work/glyphs";
import { Quiet } from "../../ui/Quiet";
import css from "./Names.module.css";

interface Props {
  target: Target;
  onChoose: (t: Target) => void;
}

/** What is on the desk: its name and tags, and where else it can go. */
export function Names({ target, onChoose }: Props) {
  const { bench, module, change, changeModule } = useBench();
  const sheet = sheetOf(bench, module, target);
  if (!sheet) return null;
  const rename = (name: string) => {
    if (target.kind === "slot")
      changeModule((m) => ({
        ...m,
        glyphs: (m.glyphs ?? []).map((g) => (g.slot === target.slot ? { ...g, name } : g)),
      }));
    else if (target.kind === "drawing")
      change((b) => ({ ...b, glyphs: b.glyphs?.map((d) => (d.key === target.key ? { ...d, name } : d)) }));
    else if (name && name !== target.name) {
      const free = freePicture(bench, name);
      change((b) => ({
        ...b,
        glyphs: b.glyphs?.map((d) =>
          d.part?.picture === target.name
            ? { ...d, name: `${free} ${partsOf(b, target.name).indexOf(d) + 1}`, part: { ...d.part, picture: free } }
            : d,
        ),
      }));
      onChoose({ kind: "picture", name: free });
    }
  };
  const retag = (text: string) => {
    const tags = text
      .split(",")
      .map((t) => t.trim())
      .filter((t) => t !== "")
      .slice(0, 20);
    change((b) => ({
      ...b,
      glyphs: b.glyphs?.map((d) =>
        (target.kind === "drawing" && d.key === target.key) ||
        (target.kind === "picture" && d.part?.picture === target.name)
          ? { ...d, tags }
          : d,
      ),
    }));
  };
  const remove = () => {
    change((b) => ({
      ...b,
      glyphs: b.glyphs?.filter((d) =>
        target.kind === "drawing"
          ? d.key !== target.key
          : d.part?.picture !== (target.kind === "picture" && target.name),
      ),
    }));
  };
  const keep = () => {
    const { bench: next, keys } = withDrawings(bench, [{ name: sheet.name || "unnamed", rows: sheet.cells[0] ?? [] }]);
    change(() => next);
    if (keys[0]) onChoose({ kind: "drawing", key: keys[0] });
  };
  const where = {
    slot: target.kind === "slot" ? `Slot ${target.slot} of ${module.name || "the module"}` : "",
    drawing: "In the library of the bench",
    picture: `A picture of ${sheet.cols} × ${sheet.rows} cells`,
  }[target.kind];
  const drawn = target.kind !== "slot" || module.glyphs?.some((g) => g.slot === target.slot);
  return (
    <div className={css.names}>
      <div className={css.name}>
        <InlineText label="Name of the glyph" value={sheet.name} placeholder="Name it" onChange={rename} strong />
      </div>
      <span className={css.where}>{where}</span>
      {target.kind !== "slot" && (
        <div className={css.tags}>
          <InlineText
            key={sheet.tags.join()}
            label="Tags, parted by commas"
            value={sheet.tags.join(", ")}
            placeholder="Tags, parted by commas"
            onChange={retag}
          />
        </div>
      )}
      {target.kind === "slot" && drawn && <Quiet onClick={keep}>Keep in the library</Quiet>}
      {target.kind === "drawing" && <Pin keyOf={target.key} onChoose={onChoose} />}
      {target.kind !== "slot" && (
        <Quiet aria-label={`Delete ${sheet.name || "it"}`} title="Delete" onClick={remove}>
          <Icon name="bin" size={18} />
        </Quiet>
      )}
    </div>
  );
}

/** Puts a drawing into a slot of the module, where all of its screens find it. */
function Pin({ keyOf, onChoose }: { keyOf: number; onChoose: (t: Target) => void }) {
  const { bench, module, changeModule } = useBench();
  const slot = freeSlot(module);
  const drawing = bench.glyphs?.find((d) => d.key === keyOf);
  if (slot === undefined || !drawing) return null;
  return (
    <Quiet
      title="A glyph in a slot is shown by a code that does not change"
      onClick={() => {
        changeModule((m) => ({
          ...m,
          glyphs: [...(m.glyphs ?? []), { slot, name: drawing.name, rows: drawing.rows }],
        }));
        onChoose({ kind: "slot", slot });
      }}
    >
      Fix in slot {slot}
    </Quiet>
  );
}
