import { createContext, useContext, type RefObject } from "react";
import type { Glass } from "../api/client";
import type { Place } from "./typing/rows";

/** What the glass on the dock and the view below it do for each other. None of it makes anything draw again. */
export interface GlassHands {
  /** Types a text at the caret on the glass; the dock sets it. */
  typistRef: RefObject<(text: string, block?: boolean) => void>;
  /** Puts the keys on the glass; the glass sets it. */
  toGlassRef: RefObject<() => void>;
  /** Shows a glass, and the caret at a place, before the page is drawn with them; the glass on the dock sets it. */
  showRef: RefObject<(glass: Glass, caret?: Place) => void>;
  /** Opens a field by its index, to be edited; a view sets it. */
  fieldRef: RefObject<(field: number) => void>;
  /** What is done where a cell of the glass is clicked, beside moving the caret; a view sets it. */
  pickRef: RefObject<(cell: number) => void>;
}

export const GlassContext = createContext<GlassHands>({
  typistRef: { current: () => undefined },
  toGlassRef: { current: () => undefined },
  showRef: { current: () => undefined },
  fieldRef: { current: () => undefined },
  pickRef: { current: () => undefined },
});

export const useGlass = () => useContext(GlassContext);
