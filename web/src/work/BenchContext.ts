import { createContext, useContext } from "react";
import type { Bench, BenchDocument, Link, Module, Remedy, Screen, Setup } from "../api/client";
import type { Seen } from "../api/room";
import type { SaveState } from "./useSaving";

/** The open bench, its selected module, and how to change both. */
export interface BenchWork {
  /** Number under which it is stored. */
  id: number;
  bench: Bench;
  module: Module;
  /** The screen of the module that is composed. */
  screen: Screen;
  /** What a run of that screen needs. */
  setup: Setup;
  /** What a run of another module needs: of the screen that was composed on it last, or of one by its index. */
  setupOf: (m: Module, screenAt?: number) => Setup;
  /** Composes a screen of the selected module, or of another one by its id. */
  selectScreen: (id: string, of?: string) => void;
  selectModule: (id: string) => void;
  /** Adds modules like one, with what is free on the bench, and selects the first; returns what did not fit and why. */
  addModules: (like: Module, count: number) => Promise<string | undefined>;
  removeModule: (id: string) => void;
  /** Joins the selected module by another link, with pins or an address that are free; returns what is short. */
  join: (kind: Link["kind"]) => Promise<string | undefined>;
  /** Changes made with the same tag, one soon after the other, undo as one. */
  change: (next: (b: Bench) => Bench, tag?: string) => void;
  changeModule: (next: (m: Module) => Module, tag?: string) => void;
  /** Applies a finding's remedy; returns why it could not be. */
  remedy: (r: Remedy) => string | undefined;
  undo: () => void;
  redo: () => void;
  canUndo: boolean;
  canRedo: boolean;
}

/** How far the bench is stored, and how a conflict is settled. It changes apart from the bench. */
export interface Saving {
  save: SaveState;
  revision: number;
  /** Settles what both changed at the same place; what only one changed stands. */
  keepMine: (theirs: BenchDocument) => void;
  takeTheirs: (theirs: BenchDocument) => void;
}

export const BenchContext = createContext<BenchWork | null>(null);
export const SavingContext = createContext<Saving | null>(null);
/** Who has the bench open, this page among them. */
export const HereContext = createContext<Seen[]>([]);

export function useBench(): BenchWork {
  const work = useContext(BenchContext);
  if (!work) throw new Error("useBench outside of OpenBench");
  return work;
}

export function useSavingState(): Saving {
  const saving = useContext(SavingContext);
  if (!saving) throw new Error("useSavingState outside of OpenBench");
  return saving;
}
