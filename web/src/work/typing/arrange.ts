import type { FieldOf } from "../../api/client";
import { chars, ends, isEmpty, lengthOf, type Selection } from "./rows";

/** What can be done with the text of a row or of what is selected. */
export type Arrangement = "left" | "centre" | "right" | "justify" | "fill" | "repeat" | "box";

/** The keys, with Alt, and what they do. */
export const arrangements: { id: Arrangement; code: string; key: string; title: string }[] = [
  { id: "left", code: "KeyL", key: "L", title: "To the left edge" },
  { id: "centre", code: "KeyC", key: "C", title: "Centre" },
  { id: "right", code: "KeyR", key: "R", title: "To the right edge" },
  { id: "justify", code: "KeyJ", key: "J", title: "Spread the words" },
  { id: "fill", code: "KeyK", key: "K", title: "Fill with the first character" },
  { id: "repeat", code: "KeyW", key: "W", title: "Repeat to the end of the row" },
  { id: "box", code: "KeyX", key: "X", title: "Draw a box round it" },
];

/** What is arranged: a screen's rows, and its fields, which move with the text round them. */
export interface Arranged {
  rows: string[];
  fields: FieldOf[] | undefined;
}

interface Size {
  rows: number;
  cols: number;
}

/** Part of a row, as a half-open run of columns. */
interface Part {
  row: number;
  from: number;
  to: number;
}

/** The parts that a selection means: itself within one row, whole rows otherwise. */
function partsOf(s: Selection, { cols }: Size): Part[] {
  const [from, to] = ends(s);
  if (!isEmpty(s) && from.row === to.row) return [{ row: from.row, from: from.col, to: Math.min(to.col, cols) }];
  const last = to.col === 0 && to.row > from.row ? to.row - 1 : to.row;
  return Array.from({ length: last - from.row + 1 }, (_, i) => ({ row: from.row + i, from: 0, to: cols }));
}

const padded = (row: string | undefined, width: number): string[] => {
  const cells = chars(row);
  return cells.concat(Array<string>(Math.max(width - cells.length, 0)).fill(" "));
};

function tidy(rows: string[]): string[] {
  const out = rows.map((r) => r.replace(/ +$/, ""));
  while (out.length > 0 && out.at(-1) === "") out.pop();
  return out;
}

/** Moves the text of a part to an edge or the middle of it, and with it the fields that stand there. */
function moved({ rows, fields }: Arranged, part: Part, to: Arrangement, size: Size): Arranged {
  const cells = padded(rows[part.row], size.cols);
  let here = { ...part };
  const taken = (c: number) =>
    cells[c] !== " " ||
    (fields ?? []).some((f) => f.kind !== "cursor" && f.row === part.row && c >= f.col && c < f.col + f.width);
  const first = (p: Part) => {
    let c = p.from;
    while (c < p.to && !taken(c)) c++;
    return c;
  };
  const end = (p: Part) => {
    let c = p.to;
    while (c > p.from && !taken(c - 1)) c--;
    return c;
  };
  // Text that is selected to its very ends is moved within its row.
  if (first(here) === here.from && end(here) === here.to) here = { ...here, from: 0, to: size.cols };
  const start = first(here);
  const stop = end(here);
  const length = stop - start;
  if (length <= 0 || stop > here.to) return { rows, fields };
  const free = here.to - here.from - length;
  const at = here.from + (to === "left" ? 0 : to === "right" ? free : Math.floor(free / 2));
  const text = cells.slice(start, stop);
  cells.fill(" ", start, stop);
  cells.splice(at, length, ...text);
  const by = at - start;
  return {
    rows: withRow(rows, part.row, cells),
    fields: fields?.map((f) =>
      f.row === part.row && f.col >= start && f.col < stop ? { ...f, col: Math.max(f.col + by, 0) } : f,
    ),
  };
}

function withRow(rows: string[], row: number, cells: string[]): string[] {
  const out = rows.slice();
  while (out.length <= row) out.push("");
  out[row] = cells.join("");
  return tidy(out);
}

/** Spreads the words of a part over its width. */
function justified(cells: string[], { from, to }: Part): string[] {
  const words = cells.slice(from, to).join("").trim().split(/ +/);
  const gaps = words.length - 1;
  const free = to - from - lengthOf(words.join(""));
  if (gaps < 1 || free < gaps) return cells;
  let text = "";
  words.forEach((w, i) => {
    text += w + (i < gaps ? " ".repeat(Math.floor((free * (i + 1)) / gaps) - Math.floor((free * i) / gaps)) : "");
  });
  return [...cells.slice(0, from), ...chars(text), ...cells.slice(to)];
}

/** Draws a box of + - and | on the edge of a block of cells. */
function boxed(rows: string[], s: Selection, size: Size): string[] {
  const [from, to] = isEmpty(s)
    ? [
        { row: 0, col: 0 },
        { row: size.rows - 1, col: size.cols },
      ]
    : ends(s);
  const left = Math.min(from.col, to.col);
  const right = Math.min(Math.max(from.col, to.col), size.cols) - 1;
  let out = rows;
  for (let row = from.row; row <= to.row; row++) {
    const cells = padded(out[row], size.cols);
    const edge = row === from.row || row === to.row;
    for (let c = left; c <= right; c++) {
      if (c === left || c === right) cells[c] = edge ? "+" : "|";
      else if (edge) cells[c] = "-";
    }
    out = withRow(out, row, cells);
  }
  return out;
}

/** What a screen's rows and fields become. */
export function arrange(what: Arranged, s: Selection, how: Arrangement, size: Size): Arranged {
  if (how === "box") return { ...what, rows: boxed(what.rows, s, size) };
  return partsOf(s, size).reduce((now: Arranged, part) => {
    if (how === "left" || how === "right" || how === "centre") return moved(now, part, how, size);
    const cells = padded(now.rows[part.row], size.cols);
    const start = isEmpty(s) ? s.caret.col : part.from;
    if (how === "justify") return { ...now, rows: withRow(now.rows, part.row, justified(cells, part)) };
    const sample = isEmpty(s) ? [cells[start] ?? " "] : cells.slice(start, part.to);
    if (how === "fill") cells.fill(sample[0] ?? " ", start, part.to);
    else for (let c = start; c < size.cols; c++) cells[c] = sample[(c - start) % sample.length] ?? " ";
    return { ...now, rows: withRow(now.rows, part.row, cells) };
  }, what);
}
