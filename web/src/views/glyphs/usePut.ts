import { useQueryClient } from "@tanstack/react-query";
import type { CutCell } from "../../api/client";
import { loadingKey } from "../../api/glyphs";
import { useGlass } from "../../work/GlassContext";
import { useGlyphEdits } from "./useGlyphEdits";
import { charOf, charOfKey } from "../../work/typing/rows";

/**
 * Adds glyphs that were made to the library, and writes cells that show them at the caret on the glass: one change to
 * undo for each.
 */
export function usePut() {
  const { edit, refused } = useGlyphEdits();
  const { typistRef } = useGlass();
  const queries = useQueryClient();
  /** Adds them and gives their keys; undefined where that was refused. */
  const add = async (glyphs: { rows: number[] }[], name: string, tags: string[]): Promise<number[] | undefined> => {
    if (glyphs.length === 0) return [];
    const drawings = glyphs.map((g, i) => ({ name: `${name} ${i + 1}`, rows: g.rows, tags }));
    return (await edit({ do: "add", drawings }))?.keys;
  };
  const put = async (glyphs: { rows: number[] }[], cells: CutCell[], cols: number, name: string, tags: string[]) => {
    const keys = await add(glyphs, name, tags);
    if (!keys) return;
    const chars = cells.map((c) => (c.glyph >= 0 ? charOfKey(keys[c.glyph] ?? 0) : charOf(c.code)));
    const rows: string[] = [];
    for (let at = 0; at < chars.length; at += cols) rows.push(chars.slice(at, at + cols).join(""));
    typistRef.current(rows.join("\n"), true);
    void queries.invalidateQueries({ queryKey: loadingKey });
  };
  return { add, put, refused };
}
