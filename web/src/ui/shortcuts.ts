import { useEffect } from "react";

/** Keys that do something, as they are printed on a keyboard: those that are held first. */
export interface Shortcut {
  keys: readonly string[];
  what: string;
}

const held = ["Ctrl", "Alt", "Shift"] as const;

/**
 * Every shortcut of the page, in the order of the sheet that lists them. Handlers ask here which of its keys
 * was pressed, so that the sheet never says what no key does.
 */
export const shortcuts = {
  move: { keys: ["←", "→", "↑", "↓"], what: "move over the cells; with Shift select" },
  ends: { keys: ["Home", "End"], what: "start and end of the row; with Ctrl of the screen" },
  nextRow: { keys: ["Enter"], what: "start of the next row" },
  mode: { keys: ["Insert"], what: "overtype or insert" },
  clear: { keys: ["Backspace", "Delete"], what: "clear the cell before; close the gap at the cursor" },
  all: { keys: ["Ctrl", "A"], what: "select the screen" },
  align: {
    keys: ["Alt", "L", "C", "R", "J"],
    what: "text of the row, or what is selected: left, centre, right, spread its words",
  },
  fill: {
    keys: ["Alt", "K", "W", "X"],
    what: "fill with the first character, repeat to the end of the row, draw a box",
  },
  field: { keys: ["F2"], what: "make a field of the selected cells; on a field, open it" },
  cursor: { keys: ["Alt", "U"], what: "leave the module's cursor here: line, block, none" },
  find: { keys: ["Ctrl", "Shift", "F"], what: "find a text on all screens" },
  undo: { keys: ["Ctrl", "Z"], what: "undo; with Shift redo" },
  screens: { keys: ["←", "→"], what: "along the screens of the module: the one before, the one after" },
  code: { keys: ["\\xDF"], what: "typed on the glass: the code DF itself" },
  bytes: { keys: ["↑", "↓"], what: "in the list of bytes: step, and see the glass after it" },
  chart: { keys: ["←", "→", "↑", "↓"], what: "in the ROM's chart: choose a code; Enter types it" },
  dot: {
    keys: ["Space", "Enter"],
    what: "on the glyph desk: change the dot; write the glyph at the cursor on the glass",
  },
  dots: { keys: ["Shift", "←", "→"], what: "on the glyph desk: move all dots, round the edge" },
  turn: {
    keys: ["M", "F", "T", "I", "Y"],
    what: "on the glyph desk: mirror, flip, turn, invert, left half onto right",
  },
  module: { keys: ["Alt", "Page Up", "Page Down"], what: "module before and after" },
  fold: { keys: ["Alt", "↑", "↓"], what: "fold the module to a strip, and unfold it" },
  run: { keys: ["F7", "F8", "F9"], what: "in the run: step back, play or pause, step" },
  recording: {
    keys: ["←", "→", "+", "-", "0", "Page Up", "Page Down", "Home", "End", "A", "B", "V"],
    what: "over a recording: operation before and after, nearer, further, all, along, ends, marks, the next broken limit",
  },
  recordingEdge: {
    keys: ["Shift", "←", "→", "V"],
    what: "over a recording: edge before and after, broken limit before",
  },
  show: { keys: ["F8", "F9"], what: "in the scenes: play or pause, to the next change" },
  map: {
    keys: ["←", "→", "↑", "↓", "Delete"],
    what: "on the map of scenes: to the next one; take a scene or an end away",
  },
  time: {
    keys: ["←", "→", "↑", "↓"],
    what: "at a scene's end on the time line: a tenth of a second, a second less or more",
  },
  number: { keys: ["↑", "↓"], what: "in a field for a number: one more or less; with Shift ten" },
  lines: {
    keys: ["↑", "↓", "Page Up", "Page Down"],
    what: "in the program: along its lines; what they come from is marked",
  },
  seen: {
    keys: ["Alt", "B", "U"],
    what: "on the glass of what one sees: a solid block, a character that cannot be typed",
  },
  practice: { keys: ["↑", "↓", "Enter"], what: "in a round of practice: along what can be done; do it" },
  write: { keys: ["Ctrl", "Enter"], what: "in the log: write the entry" },
  handbook: { keys: ["F1"], what: "the handbook beside the work, at the page of this view; again to close it" },
  back: { keys: ["Esc"], what: "from a step back to the end" },
} as const satisfies Record<string, Shortcut>;

export type ShortcutName = keyof typeof shortcuts;

/** What an event of a key says; those of the browser and of React do. */
interface KeyPress {
  key: string;
  ctrlKey: boolean;
  metaKey: boolean;
  altKey: boolean;
  shiftKey: boolean;
}

/** What the browser calls keys whose print differs. */
const called: Record<string, string> = {
  "←": "ArrowLeft",
  "→": "ArrowRight",
  "↑": "ArrowUp",
  "↓": "ArrowDown",
  "Page Up": "PageUp",
  "Page Down": "PageDown",
  Esc: "Escape",
  Space: " ",
};

/** Which key of a shortcut was pressed, with just the keys held that it names; undefined for another. */
export function pressed(name: ShortcutName, e: KeyPress): string | undefined {
  const keys: readonly string[] = shortcuts[name].keys;
  const [ctrl, alt, shift] = held.map((k) => keys.includes(k));
  if ((e.ctrlKey || e.metaKey) !== ctrl || e.altKey !== alt || e.shiftKey !== shift) return undefined;
  return keys.find((k) => !held.includes(k as "Alt") && (called[k] ?? k).toLowerCase() === e.key.toLowerCase());
}

/** Listens for a shortcut wherever the keyboard is; act is told which of its keys it was. */
export function useShortcut(name: ShortcutName, act: (key: string) => void) {
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const key = pressed(name, e);
      if (key === undefined) return;
      e.preventDefault();
      act(key);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [name, act]);
}
