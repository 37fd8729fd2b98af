import type { Schemas } from "../../api/client";

export type Build = Schemas["Catalog"]["builds"][number];

/** What is answered so far. */
export interface Given {
  size: string;
  /** Index in glows. */
  glow: number;
  backpack: boolean;
  expander: "" | "PCF8574" | "PCF8574A";
  count: string;
  /** Part of a host, one of others, or "" while it is not known. */
  host: string;
  build: string;
  kind: "" | (typeof kinds)[number];
}

export const nothing: Given = {
  size: "16x2",
  glow: 0,
  backpack: false,
  expander: "",
  count: "1",
  host: "",
  build: "",
  kind: "",
};

/** What a question is asked with. */
export interface Question {
  given: Given;
  give: (next: Partial<Given>) => void;
}

export const sizes = ["8x1", "8x2", "16x1", "16x2", "16x4", "20x2", "20x4", "24x2", "40x2", "40x4"];
export const kinds = ["backpack", "shift", "parallel4", "parallel8"] as const;
export const glows = [
  { technology: "lcd", tint: "green", title: "Dark letters on a lit or grey ground" },
  { technology: "lcd", tint: "blue", title: "Light letters on blue" },
  { technology: "vfd", tint: "teal", title: "It glows by itself, blue-green" },
] as const;

/** Boards that are not in the table, with the millivolts of their logic where those are not the usual ones. */
export const others = new Map([
  ["Another board, 5 V", undefined],
  ["Another board, 3.3 V", 3300],
]);

/** How the module looks when it is lit. */
export const lookOf = (g: Given) => glows[g.glow] ?? glows[0];
