import { Icon } from "../../ui/Icon";
import { InlineText } from "../../ui/InlineText";
import { useBench } from "../../work/BenchContext";
import { sheetOf, trimmed, type Target } from "../../work/glyphs";
import { Quiet } from "../../ui/Quiet";
import { useGlyphEdits } from "./useGlyphEdits";
import css from "./Names.module.css";

interface Props {
  target: Target;
  onChoose: (t: Target) => void;
}

/** What is on the desk: its name and tags, and where else it can go. */
export function Names({ target, onChoose }: Props) {
  const { bench, module, change, changeModule } = useBench();
  const { edit, refused } = useGlyphEdits();
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
      void edit({ do: "rename", picture: target.name, name }).then(
        (made) => made?.picture && onChoose({ kind: "picture", name: made.picture }),
      );
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
    const drawings = [{ name: sheet.name || "unnamed", rows: trimmed(sheet.cells[0] ?? []) }];
    void edit({ do: "add", drawings }).then(
      (made) => made?.keys?.[0] && onChoose({ kind: "drawing", key: made.keys[0] }),
    );
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
      {refused && <span role="alert">{refused}</span>}
    </div>
  );
}

/** Puts a drawing into a slot of the module, where all of its screens find it. */
function Pin({ keyOf, onChoose }: { keyOf: number; onChoose: (t: Target) => void }) {
  const { bench } = useBench();
  const { edit, refused } = useGlyphEdits();
  const drawing = bench.glyphs?.find((d) => d.key === keyOf);
  if (!drawing) return null;
  return (
    <>
      <Quiet
        title="A glyph in a slot is shown by a code that does not change"
        onClick={() =>
          void edit({ do: "fill", drawings: [drawing] }).then(
            (made) => made && onChoose({ kind: "slot", slot: made.slot }),
          )
        }
      >
        Fix in a slot
      </Quiet>
      {refused && <span role="alert">{refused}</span>}
    </>
  );
}
