import { createContext, useContext } from "react";
import { noExtras, type Extras } from "../api/queries";

/** What the run has beside the module's screen, and how that is changed. */
export interface RunExtras {
  extras: Extras;
  setExtras: (next: Extras) => void;
}

export const ExtrasContext = createContext<RunExtras>({ extras: noExtras, setExtras: () => undefined });

export const useExtras = () => useContext(ExtrasContext);
