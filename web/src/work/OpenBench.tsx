import { useQuery } from "@tanstack/react-query";
import { useCallback, useMemo, useState, type ReactNode } from "react";
import type { BenchDocument, Module, Remedy } from "../api/client";
import { BenchContext, HereContext, SavingContext, type BenchWork, type Saving } from "./BenchContext";
import { remedied } from "./patch";
import { laid, setupOf, tableQuery } from "./setup";
import { useEvents } from "./useEvents";
import { useHistory } from "./useHistory";
import { useSendingNotes } from "./useLog";
import { useMe } from "./useMe";
import { useModules } from "./useModules";
import { useSaving } from "./useSaving";

interface Props {
  document: BenchDocument;
  /** Id of the module on the dock; the first where the bench has none of that id. */
  selected: string;
  onSelect: (id: string) => void;
  children: ReactNode;
}

/** Holds an open bench with its history, and saves it as it changes; its children work on it. */
export function OpenBench({ document: opened, selected, onSelect, children }: Props) {
  const me = useMe();
  const { bench, taken, change, takeUp, undo, redo, canUndo, canRedo } = useHistory(opened, me);
  const { state: save, revision, settle, hear } = useSaving(opened, { bench, taken }, takeUp);
  useSendingNotes(opened.id);
  const here = useEvents(opened.id, revision, hear);
  const module = bench.modules.find((m) => m.id === selected) ?? (bench.modules[0] as Module);
  const { join, addModules, removeModule } = useModules(bench, module, change, onSelect);
  const changeModule = useCallback(
    (next: (m: Module) => Module, tag = "") =>
      change(
        (b) => ({ ...b, modules: b.modules.map((m) => (m.id === module.id ? next(m) : m)) }),
        tag && `${module.id} ${tag}`,
      ),
    [change, module.id],
  );
  const remedy = useCallback(
    (r: Remedy) => {
      const { bench: mended, error } = remedied(bench, r);
      if (mended) change(() => mended);
      return error;
    },
    [bench, change],
  );

  const onTable = laid(bench);
  const [composed, setComposed] = useState<Record<string, string>>({});
  const shown = setupOf(bench, module, screenIn(module, composed), undefined);
  const { data: wired } = useQuery({ ...tableQuery(bench, shown), enabled: onTable });
  const joined = onTable ? wired?.joined : undefined;
  const setupFor = useCallback(
    (m: Module, screenAt = screenIn(m, composed)) => {
      const at = bench.modules.findIndex((o) => o.id === m.id);
      return setupOf(bench, m, screenAt, joined?.[at] ?? undefined);
    },
    [bench, composed, joined],
  );
  const setup = useMemo(() => setupFor(module), [setupFor, module]);
  const work = useMemo<BenchWork>(
    () => ({
      id: opened.id,
      bench,
      module,
      screen: module.screens[screenIn(module, composed)] ?? { id: "screen-1", rows: [] },
      selectScreen: (screen, of = module.id) => setComposed((all) => ({ ...all, [of]: screen })),
      setup,
      setupOf: setupFor,
      selectModule: onSelect,
      addModules,
      removeModule,
      join,
      change,
      changeModule,
      remedy,
      undo,
      redo,
      canUndo,
      canRedo,
    }),
    [
      opened.id,
      bench,
      module,
      composed,
      setup,
      setupFor,
      onSelect,
      addModules,
      removeModule,
      join,
      change,
      changeModule,
      remedy,
      undo,
      redo,
      canUndo,
      canRedo,
    ],
  );
  const saving = useMemo<Saving>(
    () => ({
      save,
      revision,
      keepMine: settle,
      takeTheirs: (theirs) => {
        change(settle(theirs));
      },
    }),
    [save, revision, settle, change],
  );
  return (
    <BenchContext value={work}>
      <SavingContext value={saving}>
        <HereContext value={here}>{children}</HereContext>
      </SavingContext>
    </BenchContext>
  );
}

/** Index of the screen of a module that was chosen to be composed; the first where none was. */
const screenIn = (m: Module, composed: Record<string, string>): number =>
  Math.max(
    m.screens.findIndex((s) => s.id === composed[m.id]),
    0,
  );
