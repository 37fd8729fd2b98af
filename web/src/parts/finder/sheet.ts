import type { QueryClient } from "@tanstack/react-query";
import type { FindRequest } from "../../api/faults";
import type { PhotoCell } from "../../api/photos";
import { decimal } from "../../ui/numbers";

/** Stands for a cell that cannot be typed, and for a solid block. */
export const UNREADABLE = "\uFFFD";
export const BLOCK = "\u2588";

/** What a maker says of a glass. */
export interface Sheet {
  /** Counts how often one began again. */
  begun: number;
  /** Cells, row by row; a space where nothing was typed. */
  cells: string[];
  /** Something was typed. */
  typed: boolean;
  /** Of each cell what a photograph says; sure is 0 where it was typed since. */
  read: CellRead[] | undefined;
  look: { class: NonNullable<FindRequest["class"]>; pattern?: FindRequest["pattern"] } | undefined;
  /** Cells that are not as they ought to be; undefined where none was pointed at. */
  wrong: number[] | undefined;
  light: boolean | undefined;
  /** What a scanner printed. */
  printed: string;
  /** Volts as they were typed, by the test that measures them. */
  volts: Record<string, string>;
  results: Taken[];
}

/** Reads volts as people type them; undefined where they are none. */
export function voltsOf(text: string): number | undefined {
  const v = decimal(text);
  return text.trim() !== "" && Number.isFinite(v) && Math.abs(v) <= 20 ? v : undefined;
}

/** A test's result, with what it says. */
export interface Taken {
  test: string;
  title: string;
  says: string;
  outcome?: string;
  mV?: number;
  read?: CellRead[];
}

export type CellRead = NonNullable<FindRequest["read"]>[number];

/** What a photograph says of its cells, as it is sent. */
export const readOf = (cells: PhotoCell[]): CellRead[] =>
  cells.map(({ code, sure, next, also }) => ({ code, sure, next, also }));

export const blank = (cells: number, begun = 0): Sheet => ({
  begun,
  cells: Array.from({ length: cells }, () => " "),
  typed: false,
  read: undefined,
  look: undefined,
  wrong: undefined,
  light: undefined,
  printed: "",
  volts: {},
  results: [],
});

/** Nothing was said yet. */
export const untouched = (s: Sheet): boolean =>
  !s.typed &&
  !s.look &&
  s.wrong === undefined &&
  s.light === undefined &&
  s.results.length === 0 &&
  s.printed === "" &&
  Object.keys(s.volts).length === 0;

/** The rows of a sheet, as they are sent. */
export function rowsOf(cells: string[], cols: number): string[] {
  const out: string[] = [];
  for (let i = 0; i < cells.length; i += cols)
    out.push(
      cells
        .slice(i, i + cols)
        .join("")
        .trimEnd(),
    );
  return out;
}

/** What is asked about a sheet; a picture that was chosen counts in place of what was typed. */
export const asked = (s: Sheet, cols: number): Omit<FindRequest, "bench" | "module" | "screen"> => ({
  class: s.look?.class,
  pattern: s.look?.pattern,
  typed: s.typed && !s.look ? rowsOf(s.cells, cols) : undefined,
  read: s.typed && !s.look ? s.read : undefined,
  wrong: s.wrong,
  light: s.light,
  printed: s.printed.trim() || undefined,
  results: [
    ...s.results
      .filter((r) => s.volts[r.test] === undefined)
      .map(({ test, outcome, mV, read }) => ({ test, outcome, mV, read })),
    ...Object.entries(s.volts).flatMap(([test, text]) => {
      const v = voltsOf(text);
      return v === undefined ? [] : [{ test, mV: Math.round(v * 1000) }];
    }),
  ],
});

/** Keeps what was said of a module while other views are looked at. */
export function keepSheet(queries: QueryClient, key: string, s: Sheet): void {
  queries.setQueryDefaults(["sheet"], { gcTime: Infinity });
  queries.setQueryData(["sheet", key], s);
}

export const keptSheet = (queries: QueryClient, key: string): Sheet | undefined => queries.getQueryData(["sheet", key]);

/** What looks are called. */
export const looks: Record<string, string> = {
  blank: "Blank",
  "row-of-blocks": "A row of blocks",
  "all-blocks": "Blocks everywhere",
  shaded: "Characters on shaded cells",
  faint: "Faint characters",
  right: "As it ought to be",
  shifted: "Shifted",
  "every-other": "Every other character",
  rows: "Rows missing or moved",
  more: "More than was sent",
  partly: "Right in part",
  garbage: "Other characters",
};

/** What was seen, in words for the log; "" where nothing was said of the glass. */
export function inWords(s: Sheet, cols: number): string {
  if (s.look) return `${looks[s.look.pattern ?? s.look.class] ?? s.look.class}.`;
  if (!s.typed) return "";
  return `On the glass: ${rowsOf(s.cells, cols)
    .map((row) => `“${row}”`)
    .join(", ")}.`;
}
