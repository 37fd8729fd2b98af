import { createContext, useContext } from "react";
import type { Extras } from "../api/queries";

/** Which step of the run is looked at: the glass shows what is after it. */
export interface StepChoice {
  /** 0-based; -1 at power-up; null while the glass shows the end of the run. */
  step: number | null;
  choose: (step: number | null) => void;
  /** Cell of the glass, counted row by row, that is pointed at elsewhere; null for none. */
  mark: number | null;
  setMark: (cell: number | null) => void;
  extras: Extras;
  setExtras: (next: Extras) => void;
}

export const StepContext = createContext<StepChoice>({
  step: null,
  choose: () => undefined,
  mark: null,
  setMark: () => undefined,
  extras: { live: [], fault: undefined },
  setExtras: () => undefined,
});

export const useStep = () => useContext(StepContext);
