import { createContext, useContext } from "react";

/** Which step of the run is looked at: the glass shows what is after it. */
export interface StepChoice {
  /** 0-based; null while the glass shows the end of the run. */
  step: number | null;
  choose: (step: number | null) => void;
}

export const StepContext = createContext<StepChoice>({ step: null, choose: () => undefined });

export const useStep = () => useContext(StepContext);
