import type { Reading } from "../../api/recordings";

/** Heights of the lanes, px: of the times at their head, of what was decoded, of a channel. */
export const HEAD = 22;
export const WORDS = 26;
export const LANE = 32;

/** What stands above the channels. */
export const wordsOf = (r: Reading): string[] =>
  !r.found ? [] : r.link === "backpack" || r.link === "shift" ? ["Operations", "Bytes"] : ["Operations"];
