import type { CodeFile } from "../../api/code";

/** A part of the bench that lines come from: a screen of a module, or one of its fields. */
export interface Part {
  module: number;
  screen: number;
  /** -1 for the screen itself. */
  field: number;
}

/** A place in the files. */
export interface Place {
  file: number;
  first: number;
  last: number;
}

/** The part that a line comes from: of those that it lies in, the smallest; undefined for the driver's own. */
export function partOf(file: CodeFile, line: number): Part | undefined {
  const of = file.regions
    .filter((r) => r.first <= line && line <= r.last && r.screen >= 0)
    .sort((a, b) => a.last - a.first - (b.last - b.first))[0];
  return of && { module: of.module, screen: of.screen, field: of.field };
}

/** Whether a line's part belongs to what is pointed at: a screen has its fields' lines too. */
export const within = (part: Part, whole: Part): boolean =>
  part.module === whole.module && part.screen === whole.screen && (whole.field < 0 || part.field === whole.field);

/** Every place that comes from a part, in the order of the files. */
export const placesOf = (files: CodeFile[], part: Part): Place[] =>
  files.flatMap((f, file) =>
    f.regions
      .filter((r) => r.screen >= 0 && within(r, part))
      .map((r) => ({ file, first: r.first, last: r.last }))
      .sort((a, b) => a.first - b.first),
  );
