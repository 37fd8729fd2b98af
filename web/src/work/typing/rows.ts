import { digits } from "../../ui/numbers";

/**
 * Editing of a screen's rows. A row is a string of characters, one a cell; the
 * private-use characters U+E000–U+E0FF stand for the codes 00–FF themselves.
 * Positions are 0-based and may lie beyond a row's end.
 */
export interface Place {
  row: number;
  col: number;
}

/** From anchor to caret; empty where both are the same place. */
export interface Selection {
  anchor: Place;
  caret: Place;
}

export type Mode = "overtype" | "insert";

export interface Edit {
  rows: string[];
  caret: Place;
}

const CODE_BASE = 0xe000;
const KEY_BASE = 0xe100;
const MAX_KEY = 4095;

/** The character that stands for a code itself. */
export const charOf = (code: number): string => String.fromCodePoint(CODE_BASE + code);

/** The character that stands for a drawing of the library. */
export const charOfKey = (key: number): string => String.fromCodePoint(KEY_BASE + key);

/** The key of the drawing that a character stands for. */
export function keyOf(char: string): number | undefined {
  const key = (char.codePointAt(0) ?? 0) - KEY_BASE;
  return key > 0 && key <= MAX_KEY ? key : undefined;
}

/** The keys of the drawings that rows name. */
export function keysIn(rows: string[]): Set<number> {
  return new Set(rows.flatMap((row) => chars(row).map(keyOf)).filter((k) => k !== undefined));
}

export const chars = (row: string | undefined): string[] => Array.from(row ?? "");

export const lengthOf = (row: string | undefined): number => chars(row).length;

/** A character as people read it: a code that stands for itself as \xDF, a drawing of the library as a cell. */
export function readable(char: string): string {
  if (keyOf(char) !== undefined) return "◫";
  const code = (char.codePointAt(0) ?? 0) - CODE_BASE;
  return code >= 0 && code <= 0xff ? `\\x${digits(code)}` : char;
}

export const isEmpty = (s: Selection): boolean => s.anchor.row === s.caret.row && s.anchor.col === s.caret.col;

/** The selection's ends in reading order; the second is not part of it. */
export function ends(s: Selection): [Place, Place] {
  const before = s.anchor.row - s.caret.row || s.anchor.col - s.caret.col;
  return before <= 0 ? [s.anchor, s.caret] : [s.caret, s.anchor];
}

/** The columns of a row that are selected, as a half-open run; null for none. */
export function selectedIn(s: Selection, row: number, width: number): [number, number] | null {
  if (isEmpty(s)) return null;
  const [from, to] = ends(s);
  if (row < from.row || row > to.row) return null;
  const start = row === from.row ? from.col : 0;
  const end = row === to.row ? to.col : width;
  return start < end ? [start, end] : null;
}

function tidy(rows: string[]): string[] {
  const out = rows.map((r) => r.replace(/ +$/, ""));
  while (out.length > 0 && out.at(-1) === "") out.pop();
  return out;
}

function withRow(rows: string[], row: number, cells: string[]): string[] {
  const out = rows.slice();
  while (out.length <= row) out.push("");
  out[row] = cells.join("");
  return out;
}

function padded(cells: string[], width: number): string[] {
  return cells.length >= width ? cells : [...cells, ...Array<string>(width - cells.length).fill(" ")];
}

/** Clears what is selected: blanks it, or with insert closes the gap in each row. */
export function clear(rows: string[], s: Selection, mode: Mode): Edit {
  const [from, to] = ends(s);
  let out = rows;
  for (let r = from.row; r <= to.row; r++) {
    const cells = chars(out[r]);
    const run = selectedIn(s, r, cells.length);
    if (!run) continue;
    if (run[0] >= cells.length) continue; // nothing stands there
    const blank = mode === "overtype" ? Array<string>(Math.min(run[1], cells.length) - run[0]).fill(" ") : [];
    cells.splice(run[0], run[1] - run[0], ...blank);
    out = withRow(out, r, cells);
  }
  return { rows: tidy(out), caret: from };
}

/** Puts text at the caret; a line end leads to the start of the next row, or with block to the caret's column in it. */
export function write(rows: string[], s: Selection, text: string, mode: Mode, block = false): Edit {
  let { rows: out, caret } = isEmpty(s) ? { rows, caret: s.caret } : clear(rows, s, mode);
  const left = block ? caret.col : 0;
  const lines = codes(text.normalize("NFC")).split(/\r\n|\r|\n/);
  lines.forEach((line, i) => {
    if (i > 0) caret = { row: caret.row + 1, col: left };
    const put = chars(line.replaceAll("\t", " "));
    const cells = padded(chars(out[caret.row]), caret.col);
    cells.splice(caret.col, mode === "overtype" ? put.length : 0, ...put);
    out = withRow(out, caret.row, cells);
    caret = { row: caret.row, col: caret.col + put.length };
  });
  if (block) caret = { row: caret.row - lines.length + 1, col: caret.col }; // the next block stands beside it
  return joined({ rows: tidy(out), caret });
}

/**
 * Puts text over what stands on the glass, as the module does: behind a row's last cell it goes on in the row that
 * follows, and from the last in the first.
 */
export function writeOn(rows: string[], s: Selection, text: string, cols: number, follows: number[]): Edit {
  let now: Edit = isEmpty(s) ? { rows, caret: s.caret } : clear(rows, s, "overtype");
  for (const char of chars(codes(text.normalize("NFC")))) {
    const caret = carried(now.caret, cols, follows);
    now = write(now.rows, { anchor: caret, caret }, char, "overtype");
  }
  return { ...now, caret: carried(now.caret, cols, follows) };
}

/** A place behind a row's last cell is the first of the row that follows. */
export function carried(p: Place, cols: number, follows: number[]): Place {
  return p.col >= cols && follows[p.row] !== undefined ? { row: follows[p.row] ?? 0, col: 0 } : p;
}

/** Reads the escape \xDF as the code DF. */
export function codes(text: string): string {
  return text.replace(/\\x([0-9a-f]{2})/gi, (_, hex: string) => charOf(parseInt(hex, 16)));
}

/** Where typing has just completed an escape, puts its code in one cell. */
function joined(e: Edit): Edit {
  const cells = chars(e.rows[e.caret.row]);
  const start = e.caret.col - 4;
  const typed = start < 0 ? "" : cells.slice(start, e.caret.col).join("");
  const code = codes(typed);
  if (lengthOf(typed) !== 4 || lengthOf(code) !== 1) return e;
  cells.splice(start, 4, code);
  return { rows: withRow(e.rows, e.caret.row, cells), caret: { row: e.caret.row, col: start + 1 } };
}

/** Backspace: blanks, or with insert removes, the character before the caret. */
export function backspace(rows: string[], at: Place, mode: Mode): Edit {
  if (at.col === 0) {
    return at.row === 0 ? { rows, caret: at } : { rows, caret: { row: at.row - 1, col: lengthOf(rows[at.row - 1]) } };
  }
  const before = { row: at.row, col: at.col - 1 };
  return clear(rows, { anchor: before, caret: at }, mode);
}

/** Delete: removes the character at the caret; what follows moves up to it. */
export function remove(rows: string[], at: Place): Edit {
  return { ...clear(rows, { anchor: at, caret: { row: at.row, col: at.col + 1 } }, "insert"), caret: at };
}

/** The selected text, rows joined by line ends; what is pasted again is the same. */
export function selectedText(rows: string[], s: Selection): string {
  const [from, to] = ends(s);
  const out: string[] = [];
  for (let r = from.row; r <= to.row; r++) {
    const cells = chars(rows[r]);
    const run = selectedIn(s, r, Math.max(cells.length, s.caret.col, s.anchor.col));
    out.push(
      run
        ? cells
            .slice(run[0], run[1])
            .map((c) => (keysIn([c]).size > 0 ? c : readable(c)))
            .join("")
        : "",
    );
  }
  return out.join("\n");
}

/** Whether rows have no text. */
export const isBare = (rows: readonly string[]): boolean => rows.join("").trim() === "";
