import type { Entry } from "../../api/faults";

/** The kinds of entries, as they are called. */
export const kinds: { kind: Entry["kind"]; title: string }[] = [
  { kind: "seen", title: "Seen" },
  { kind: "measured", title: "Measured" },
  { kind: "tried", title: "Tried" },
  { kind: "found", title: "Found" },
  { kind: "changed", title: "Changed" },
  { kind: "lit", title: "First light" },
  { kind: "scan", title: "Scan" },
  { kind: "practice", title: "Practice" },
  { kind: "note", title: "Note" },
  { kind: "anew", title: "Count anew" },
];

export const titleOf = (kind: Entry["kind"]): string => kinds.find((k) => k.kind === kind)?.title ?? kind;

/** Kinds that a maker writes by hand. */
export const own: Entry["kind"][] = ["note", "seen", "measured", "tried", "changed"];
