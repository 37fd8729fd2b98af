import { createContext, useContext } from "react";
import type { Bench, BenchDocument, Module } from "../api/client";
import type { SaveState } from "./useSaving";

/** The open bench, its selected module, and how to change both. */
export interface BenchWork {
  bench: Bench;
  module: Module;
  selectModule: (id: string) => void;
  /** Adds a copy of the selected module with an empty screen, and selects it. */
  addModule: () => void;
  removeModule: () => void;
  /** Changes made with the same tag, one soon after the other, undo as one. */
  change: (next: (b: Bench) => Bench, tag?: string) => void;
  changeModule: (next: (m: Module) => Module, tag?: string) => void;
  undo: () => void;
  redo: () => void;
  canUndo: boolean;
  canRedo: boolean;
}

/** How far the bench is stored, and how a conflict is settled. It changes apart from the bench. */
export interface Saving {
  save: SaveState;
  revision: number;
  /** Settles a conflict with the document that another tab stored. */
  keepMine: (theirs: BenchDocument) => void;
  takeTheirs: (theirs: BenchDocument) => void;
}

export const BenchContext = createContext<BenchWork | null>(null);
export const SavingContext = createContext<Saving | null>(null);

export function useBench(): BenchWork {
  const work = useContext(BenchContext);
  if (!work) throw new Error("useBench outside of BenchGate");
  return work;
}

export function useSavingState(): Saving {
  const saving = useContext(SavingContext);
  if (!saving) throw new Error("useSavingState outside of BenchGate");
  return saving;
}
