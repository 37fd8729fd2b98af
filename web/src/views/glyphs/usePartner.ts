import { drawCells } from "../../api/glyphs";
import { useLatest } from "../../ui/useLatest";
import { useBench } from "../../work/BenchContext";
import { heightOf, sheetOf, tall, trimmed, withCells, type Target } from "../../work/glyphs";
import { useGlyphEdits } from "./useGlyphEdits";
import { reason } from "../../work/reason";

/**
 * Makes the mirrored copy of a cell: in a picture it goes into the cell on the other side; a drawing of one cell becomes
 * the left one of two; of a slot it goes into the next free one.
 */
export function usePartner(target: Target, onChoose: (t: Target) => void, onTrouble: (why: string) => void) {
  const { bench, module, change } = useBench();
  const { edit, refused } = useGlyphEdits();
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
    const { module: m } = latest.current;
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
      const drawings = [from, rows].map((r, col) => ({
        name: "",
        rows: trimmed(r),
        tags: sheet.tags,
        part: { picture: sheet.name || "picture", col, row: 0 },
      }));
      const made = await edit({ do: "frame", name: sheet.name, drawings });
      if (made?.picture) onChoose({ kind: "picture", name: made.picture });
    } else {
      const name = sheet.name ? `${sheet.name.slice(0, 30)}, mirrored` : "";
      const made = await edit({ do: "fill", drawings: [{ name, rows: trimmed(rows) }] });
      if (made) onChoose({ kind: "slot", slot: made.slot });
    }
  };
  const title = {
    picture: "Copy the cell at the mark, mirrored, into the cell on the other side",
    drawing: "Make a picture of two cells: this one, and its mirror to the right",
    slot: "Put its mirror into the next free slot",
  }[target.kind];
  return { make, title, refused };
}
