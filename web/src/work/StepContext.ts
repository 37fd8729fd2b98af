import { createContext, useContext } from "react";

/** Which step of the run is looked at: the glass shows what is after it. */
export interface StepChoice {
  /** 0-based; -1 at power-up; null while the glass shows the end of the run. */
  step: number | null;
  choose: (step: number | null) => void;
  /** Cell of the glass, counted row by row, that is pointed at elsewhere; null for none. */
  mark: number | null;
  setMark: (cell: number | null) => void;
  /** Columns of the glass. */
  cols: number;
}

export const StepContext = createContext<StepChoice>({
  step: null,
  choose: () => undefined,
  mark: null,
  setMark: () => undefined,
  cols: 16,
});

export const useStep = () => useContext(StepContext);
