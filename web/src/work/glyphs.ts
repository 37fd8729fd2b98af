import type { Bench, Drawing, Module } from "../api/client";
import { charOf, charOfKey } from "./typing/rows";

/** What is drawn at the desk: a slot of the selected module, a drawing of the library, or a picture of several cells. */
export type Target =
  { kind: "slot"; slot: number } | { kind: "drawing"; key: number } | { kind: "picture"; name: string };

/** A target's dots, cell by cell. */
export interface Sheet {
  name: string;
  tags: string[];
  cols: number;
  rows: number;
  /** Row by row; each cell has as many rows of dots as the module's font. */
  cells: number[][];
}

/** Rows of dots of a module's cells. */
export const heightOf = (m: Module): number => (m.display.controller.font === "5x10" ? 11 : 8);

/** The rows of a cell, as many as its font has. */
export const tall = (rows: readonly number[], height: number): number[] =>
  Array.from({ length: height }, (_, i) => rows[i] ?? 0);

/** A dot of a sheet, gaps not counted; 0-based. */
export interface Dot {
  x: number;
  y: number;
}

/** Whether a dot of a sheet is lit; its cells have as many rows of dots as height says. */
export const litAt = ({ cells, cols }: Sheet, height: number, { x, y }: Dot): boolean =>
  (((cells[Math.floor(y / height) * cols + Math.floor(x / 5)]?.[y % height] ?? 0) >> (4 - (x % 5))) & 1) === 1;

/** The drawings of a picture. */
export const partsOf = (bench: Bench, name: string): Drawing[] =>
  (bench.glyphs ?? []).filter((d) => d.part?.picture === name);

/** What a target holds; undefined where there is no such glyph. */
export function sheetOf(bench: Bench, module: Module, target: Target): Sheet | undefined {
  const height = heightOf(module);
  if (target.kind === "slot") {
    const g = module.glyphs?.find((o) => o.slot === target.slot);
    return { name: g?.name ?? "", tags: [], cols: 1, rows: 1, cells: [tall(g?.rows ?? [], height)] };
  }
  if (target.kind === "drawing") {
    const d = bench.glyphs?.find((o) => o.key === target.key);
    return d && { name: d.name, tags: d.tags ?? [], cols: 1, rows: 1, cells: [tall(d.rows, height)] };
  }
  const parts = partsOf(bench, target.name);
  if (parts.length === 0) return undefined;
  const cols = 1 + Math.max(...parts.map((d) => d.part?.col ?? 0));
  const rows = 1 + Math.max(...parts.map((d) => d.part?.row ?? 0));
  const cells = Array.from({ length: cols * rows }, (_, i) => {
    const d = parts.find((o) => o.part?.row === Math.floor(i / cols) && o.part.col === i % cols);
    return tall(d?.rows ?? [], height);
  });
  return { name: target.name, tags: parts[0]?.tags ?? [], cols, rows, cells };
}

/** The bench with other dots for a target. */
export function withCells(bench: Bench, module: Module, target: Target, cells: number[][]): Bench {
  const stored = cells.map(trimmed);
  if (target.kind === "slot") {
    const rows = stored[0] ?? [];
    const glyphs = module.glyphs ?? [];
    const next = glyphs.some((g) => g.slot === target.slot)
      ? glyphs.map((g) => (g.slot === target.slot ? { ...g, rows } : g))
      : [...glyphs, { slot: target.slot, name: "", rows }];
    return {
      ...bench,
      modules: bench.modules.map((m) => (m.id === module.id ? { ...m, glyphs: next } : m)),
    };
  }
  if (target.kind === "drawing") {
    return {
      ...bench,
      glyphs: bench.glyphs?.map((d) => (d.key === target.key ? { ...d, rows: stored[0] ?? d.rows } : d)),
    };
  }
  const cols = 1 + Math.max(...partsOf(bench, target.name).map((d) => d.part?.col ?? 0));
  return {
    ...bench,
    glyphs: bench.glyphs?.map((d) =>
      d.part?.picture === target.name ? { ...d, rows: stored[d.part.row * cols + d.part.col] ?? d.rows } : d,
    ),
  };
}

/** Rows as the document keeps them: eight, unless lower ones are lit. */
export const trimmed = (rows: readonly number[]): number[] =>
  rows.slice(8).some((v) => v !== 0) ? tall(rows, 11) : tall(rows, 8);

/**
 * What is typed to show a target, its rows parted by line ends.
 * @param codes the code that shows each slot
 */
export function typed(bench: Bench, target: Target, codes: ReadonlyMap<number, number>): string {
  if (target.kind === "slot") return charOf(codes.get(target.slot) ?? target.slot);
  if (target.kind === "drawing") return charOfKey(target.key);
  const parts = partsOf(bench, target.name);
  const rows: string[][] = [];
  for (const d of parts) {
    const part = d.part;
    if (!part || !d.key) continue;
    (rows[part.row] ??= [])[part.col] = charOfKey(d.key);
  }
  return Array.from(rows, (row) => Array.from(row ?? [], (c) => c ?? " ").join("")).join("\n");
}

/** Cells copied at the desk, for the other glyphs of any bench. */
export interface Copied {
  cells: number[][];
  cols: number;
}

const CLIP = "slatebell-cells";

export const copyCells = (cells: Copied): void => localStorage.setItem(CLIP, JSON.stringify(cells));

export const copiedCells = (): Copied | undefined =>
  (JSON.parse(localStorage.getItem(CLIP) ?? "null") as Copied | null) ?? undefined;
