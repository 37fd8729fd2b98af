import type { Finding } from "../api/client";
import type { IconName } from "../ui/Icon";

export type ViewState = "idle" | "open" | "done";

/** A view in the navigation, in the order of the work. */
export interface View {
  path: string;
  title: string;
  icon: IconName;
  /** How far the bench, or its selected module, has come in it. */
  state: (facts: Facts) => ViewState;
}

/** What the navigation knows. */
export interface Facts {
  /** The selected screen has no text. */
  empty: boolean;
  /** Of the selected module. */
  findings: Finding[];
  /** Anything is on the bus. */
  onBus: boolean;
  /** The bench has glyphs, in slots of the module or in its library. */
  drawn: boolean;
  /** The selected module has a show. */
  staged: boolean;
  /** Something of a recording of the wires that is held. */
  recorded: ViewState;
  /** Something was written into the log. */
  noted: boolean;
  /** Wires or boards lie on the table. */
  onTable: boolean;
  /** Of all modules of the bench; undefined until they are checked. */
  everywhere: Finding[] | undefined;
  /** Of these, what is about the selected module: all its screens, and how they follow each other. */
  here: Finding[];
}

/** Whether findings are open whose codes begin with one of some words; of any code with none. */
const open = (list: Finding[], ...about: string[]) =>
  list.some((x) => x.severity !== "note" && (about.length === 0 || about.some((a) => x.code.startsWith(a))));

/** The views in three groups: what is planned, what is made, what is proved. */
export const groups: { title: string; views: View[] }[] = [
  {
    title: "Plan",
    views: [
      {
        path: "bench",
        title: "Bench",
        icon: "table",
        state: ({ everywhere }) => (everywhere === undefined ? "idle" : open(everywhere) ? "open" : "done"),
      },
      {
        path: "wiring",
        title: "Wiring",
        icon: "wires",
        state: ({ everywhere, onTable }) =>
          everywhere === undefined || !onTable ? "idle" : open(everywhere, "wiring.") ? "open" : "done",
      },
      {
        path: "bus",
        title: "Bus",
        icon: "bus",
        state: ({ everywhere, onBus }) =>
          everywhere === undefined || !onBus ? "idle" : open(everywhere, "bus.", "supply.") ? "open" : "done",
      },
    ],
  },
  {
    title: "Make",
    views: [
      {
        path: "module",
        title: "Module",
        icon: "board",
        state: ({ findings }) => (open(findings, "module.", "link.", "timing.") ? "open" : "done"),
      },
      {
        path: "glyphs",
        title: "Glyphs",
        icon: "dots",
        state: ({ drawn, findings }) => (!drawn ? "idle" : open(findings, "glyph.") ? "open" : "done"),
      },
      {
        path: "screens",
        title: "Screens",
        icon: "grid",
        state: ({ empty, findings, here }) =>
          empty
            ? "idle"
            : open(findings, "screen.", "field.", "rom.", "glyph.", "glass.") ||
                open(here, "screen.", "field.", "scroll.")
              ? "open"
              : "done",
      },
      {
        path: "scenes",
        title: "Scenes",
        icon: "film",
        state: ({ staged, here }) => (!staged ? "idle" : open(here, "show.") ? "open" : "done"),
      },
    ],
  },
  {
    title: "Prove",
    views: [
      {
        path: "run",
        title: "Run",
        icon: "wave",
        state: ({ empty, findings }) => (empty ? "idle" : open(findings) ? "open" : "done"),
      },
      {
        path: "recording",
        title: "Recording",
        icon: "probe",
        state: ({ recorded }) => recorded,
      },
      {
        path: "code",
        title: "Code",
        icon: "code",
        state: ({ empty, findings }) => (empty ? "idle" : open(findings) ? "open" : "done"),
      },
      {
        path: "faults",
        title: "Faults",
        icon: "seek",
        state: ({ empty, findings }) => (empty ? "idle" : open(findings, "glass.", "wire.") ? "open" : "done"),
      },
      {
        path: "log",
        title: "Log",
        icon: "book",
        state: ({ noted }) => (noted ? "done" : "idle"),
      },
    ],
  },
];

export const stateText: Record<ViewState, string> = {
  idle: "not started",
  open: "findings open",
  done: "done",
};
