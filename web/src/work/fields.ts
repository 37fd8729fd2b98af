import type { FieldOf, Screen } from "../api/client";
import { chars, ends, isEmpty, selectedIn, type Place, type Selection } from "./typing/rows";

/** The kinds of field, for people. */
export const fieldKinds: Record<FieldOf["kind"], string> = {
  number: "Number",
  text: "Text from a list",
  choice: "State by its number",
  clock: "Time or date",
  elapsed: "Time since a start",
  bar: "Bar",
  free: "Free text: a message, or typed on the device",
  cursor: "Place for the cursor",
};

/** Whether a member says nothing, and is not stored. */
const blank = (v: unknown): boolean =>
  v === undefined ||
  v === "" ||
  v === 0 ||
  v === false ||
  (typeof v === "object" && v !== null && Object.values(v).every(blank));

/**
 * A part of the document as it is stored: without members that say nothing, so that a remedy finds it as it was when it
 * was judged.
 * @param always members that are kept whatever they hold
 */
export function lean<T extends object>(part: T, always: (keyof T)[] = []): T {
  const out: Partial<T> = {};
  for (const key of Object.keys(part) as (keyof T)[]) {
    const v = part[key];
    if (!always.includes(key) && blank(v)) continue;
    out[key] = typeof v === "object" && v !== null && !Array.isArray(v) ? lean(v) : v;
  }
  return out as T;
}

/** A field as it is stored. */
export const leanField = (f: FieldOf): FieldOf => lean(f, ["name", "row", "col", "width", "kind"]);

/** Index of the field that a cell of the glass belongs to; -1 for none. */
export const fieldAt = (fields: FieldOf[] | undefined, { row, col }: Place): number =>
  (fields ?? []).findIndex((f) => f.row === row && col >= f.col && col < f.col + f.width);

/** What stands in a field's cells after a character was typed on one of them; ### makes room for it. */
export function retyped(cells: string[], at: number, char: string): string[] {
  return cells.every((c) => c === "#")
    ? cells.map((_, i) => (i === at ? char : " "))
    : cells.map((c, i) => (i === at ? char : c || " "));
}

/** The value that stands in a field's cells: without its fill and its unit. */
export function valueIn(f: FieldOf, cells: string[]): string {
  const fill = f.look?.fill && f.look.fill !== "none" ? f.look.fill : " ";
  const text = cells
    .map((c) => (c === fill ? " " : c))
    .join("")
    .trim();
  const unit = f.digits?.unit?.trim() ?? "";
  return unit && text.endsWith(unit) ? text.slice(0, -unit.length).trim() : text;
}

/**
 * The cells that are to be a field: those that are selected in one row, or the word at the caret. Undefined where a
 * selection goes over several rows.
 */
export function cellsOfField(
  screen: Screen,
  s: Selection,
  cols: number,
): { row: number; from: number; to: number } | undefined {
  const [from, to] = ends(s);
  if (from.row !== to.row) return undefined;
  let run = selectedIn(s, from.row, cols);
  if (isEmpty(s)) {
    const cells = chars(screen.rows[from.row]);
    let a = from.col;
    let b = from.col;
    while (a > 0 && (cells[a - 1] ?? " ") !== " ") a--;
    while (b < cells.length && (cells[b] ?? " ") !== " ") b++;
    run = [a, Math.max(b, a + 1)];
  }
  return run ? { row: from.row, from: run[0], to: Math.min(run[1], cols) } : undefined;
}
