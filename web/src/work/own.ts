import type { Bench } from "../api/client";

/** The bench with another text in an own section of the program; an empty one is none. */
export function withOwn(b: Bench, file: string, section: string, text: string): Bench {
  const others = (b.code?.own ?? []).filter((s) => s.file !== file || s.section !== section);
  const own = text.trim() === "" ? others : [...others, { file, section, text }];
  return { ...b, code: own.length > 0 ? { own } : undefined };
}
