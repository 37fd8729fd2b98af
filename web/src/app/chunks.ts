import { useEffect, useState } from "react";
import { later } from "../ui/later";

/** The views of a bench, by their names in its address, each in a chunk of its own. */
export const views = {
  bench: later(() => import("../views/bench/BenchView")),
  bus: later(() => import("../views/bus/BusView")),
  code: later(() => import("../views/code/CodeView")),
  faults: later(() => import("../views/faults/FaultsView")),
  glyphs: later(() => import("../views/glyphs/GlyphsView")),
  log: later(() => import("../views/log/LogView")),
  module: later(() => import("../views/module/ModuleView")),
  recording: later(() => import("../views/recording/RecordingView")),
  run: later(() => import("../views/run/RunView")),
  scenes: later(() => import("../views/scenes/ScenesView")),
  screens: later(() => import("../views/screens/ScreensView")),
  wiring: later(() => import("../views/wiring/WiringView")),
};

/** Whether the view with which a bench is opened is there: loaded, or one of the hand's, which come with their frame. */
export function useViewThere(name: string): boolean {
  const view = name in views ? views[name as keyof typeof views] : undefined;
  const [there, setThere] = useState(view?.there() ?? true);
  useEffect(() => void view?.start().then(() => setThere(true)), [view]);
  return there;
}
