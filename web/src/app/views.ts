import type { Finding } from "../api/client";
import type { IconName } from "../ui/Icon";

export type ViewState = "idle" | "open" | "done";

/** A view in the navigation, in the order of the work. */
export interface View {
  path: string;
  title: string;
  icon: IconName;
  /** How far the selected module has come in it. */
  state: (facts: ModuleFacts) => ViewState;
}

/** What the navigation knows of the selected module. */
export interface ModuleFacts {
  empty: boolean; // its screen has no text
  findings: Finding[];
}

/** Whether findings are open whose codes begin with one of some words; of any code with none. */
const open = (f: ModuleFacts, ...about: string[]) =>
  f.findings.some((x) => x.severity !== "note" && (about.length === 0 || about.some((a) => x.code.startsWith(a))));

export const views: View[] = [
  {
    path: "/module",
    title: "Module",
    icon: "board",
    state: (f) => (open(f, "module.", "link.", "timing.") ? "open" : "done"),
  },
  {
    path: "/screen",
    title: "Screen",
    icon: "grid",
    state: (f) => (f.empty ? "idle" : open(f, "screen.", "rom.", "glyph.", "glass.") ? "open" : "done"),
  },
  { path: "/run", title: "Run", icon: "wave", state: (f) => (f.empty ? "idle" : open(f) ? "open" : "done") },
];

export const stateText: Record<ViewState, string> = {
  idle: "not started",
  open: "findings open",
  done: "done",
};
