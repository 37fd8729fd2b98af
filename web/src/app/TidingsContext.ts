import { createContext, useContext, type ReactNode } from "react";

/** What must be said about the open bench; the shell shows it above the glass. */
export const TidingsContext = createContext<ReactNode>(null);

export const useTidings = () => useContext(TidingsContext);
