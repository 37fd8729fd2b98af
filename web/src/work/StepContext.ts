import { createContext, useContext, type RefObject } from "react";
import { noExtras, type Extras } from "../api/queries";

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
  /** Columns of the glass. */
  cols: number;
  /** Types a text at the caret on the glass; the dock sets it. */
  typistRef: RefObject<(text: string, block?: boolean) => void>;
  /** Puts the keys on the glass; the glass sets it. */
  toGlassRef: RefObject<() => void>;
  /** Opens a field by its index, to be edited; a view sets it. */
  fieldRef: RefObject<(field: number) => void>;
  /** What is done where a cell of the glass is clicked, beside moving the caret; a view sets it. */
  pickRef: RefObject<(cell: number) => void>;
}

export const StepContext = createContext<StepChoice>({
  step: null,
  choose: () => undefined,
  mark: null,
  setMark: () => undefined,
  extras: noExtras,
  setExtras: () => undefined,
  cols: 16,
  typistRef: { current: () => undefined },
  toGlassRef: { current: () => undefined },
  fieldRef: { current: () => undefined },
  pickRef: { current: () => undefined },
});

export const useStep = () => useContext(StepContext);
