import { useQueryClient } from "@tanstack/react-query";
import type { CutCell } from "../../api/client";
import { loadingKey } from "../../api/glyphs";
import { useBench } from "../../work/BenchContext";
import { withDrawings } from "../../work/glyphs";
import { useGlass } from "../../work/GlassContext";
import { charOf, charOfKey } from "../../work/typing/rows";

/**
 * Adds glyphs that were made to the library, and writes cells that show them at the caret on the glass: one change to
 * undo for each.
 */
export function usePut() {
  const { bench, change } = useBench();
  const { typistRef } = useGlass();
  const queries = useQueryClient();
  const add = (glyphs: { rows: number[] }[], name: string, tags: string[]): number[] => {
    const fresh = glyphs.map((g, i) => ({ name: `${name} ${i + 1}`, rows: g.rows, tags }));
    const { bench: next, keys } = withDrawings(bench, fresh);
    if (next.glyphs?.length !== bench.glyphs?.length) change(() => next);
    return keys;
  };
  const put = (glyphs: { rows: number[] }[], cells: CutCell[], cols: number, name: string, tags: string[]) => {
    const keys = add(glyphs, name, tags);
    const chars = cells.map((c) => (c.glyph >= 0 ? charOfKey(keys[c.glyph] ?? 0) : charOf(c.code)));
    const rows: string[] = [];
    for (let at = 0; at < chars.length; at += cols) rows.push(chars.slice(at, at + cols).join(""));
    // The typist works on the bench with the glyphs in it, which is there after the next render.
    window.requestAnimationFrame(() => typistRef.current(rows.join("\n"), true));
    void queries.invalidateQueries({ queryKey: loadingKey });
  };
  return { add, put };
}
