import { drawCells } from "../../api/glyphs";
import { useLatest } from "../../ui/useLatest";
import { useBench } from "../../work/BenchContext";
import {
  freePicture,
  freeSlot,
  heightOf,
  sheetOf,
  tall,
  trimmed,
  withCells,
  withDrawings,
  type Target,
} from "../../work/glyphs";
import { reason } from "../../work/reason";

/**
 * Makes the mirrored copy of a cell: in a picture it goes into the cell on the other side; a drawing of one cell becomes
 * the left one of two; of a slot it goes into the next free one.
 */
export function usePartner(target: Target, onChoose: (t: Target) => void, onTrouble: (why: string) => void) {
  const { bench, module, change } = useBench();
  const latest = useLatest({ bench, module });
  const make = async (cell: number) => {
    const sheet = sheetOf(latest.current.bench, latest.current.module, target);
    const from = sheet?.cells[cell];
    if (!sheet || !from) return;
    const height = heightOf(module);
    let rows: number[];
    try {
      const block = { cols: 1, rows: 1, tall: height > 8 };
      const { cells } = await drawCells({ block, cells: [{ rows: from }], do: "mirror" });
      rows = tall(cells[0]?.rows ?? [], height);
    } catch (e) {
      onTrouble(reason(e));
      return;
    }
    const { bench: b, module: m } = latest.current;
    if (target.kind === "picture") {
      const other = cell - (cell % sheet.cols) + sheet.cols - 1 - (cell % sheet.cols);
      change((now) =>
        withCells(
          now,
          m,
          target,
          sheet.cells.map((c, i) => (i === other ? rows : c)),
        ),
      );
    } else if (target.kind === "drawing") {
      const name = freePicture(b, sheet.name);
      const parts = [from, rows].map((r, col) => ({
        name: `${name} ${col + 1}`,
        rows: trimmed(r),
        tags: sheet.tags,
        part: { picture: name, col, row: 0 },
      }));
      change(() => withDrawings(b, parts).bench);
      onChoose({ kind: "picture", name });
    } else {
      const slot = freeSlot(m);
      if (slot === undefined) {
        onTrouble("All slots are taken: empty one, or keep the glyph in the library and mirror it there.");
        return;
      }
      const glyph = { slot, name: sheet.name ? `${sheet.name.slice(0, 30)}, mirrored` : "", rows: trimmed(rows) };
      change((now) => ({
        ...now,
        modules: now.modules.map((o) => (o.id === m.id ? { ...o, glyphs: [...(o.glyphs ?? []), glyph] } : o)),
      }));
      onChoose({ kind: "slot", slot });
    }
  };
  const title = {
    picture: "Copy the cell at the mark, mirrored, into the cell on the other side",
    drawing: "Make a picture of two cells: this one, and its mirror to the right",
    slot: "Put its mirror into the next free slot",
  }[target.kind];
  return { make, title };
}
