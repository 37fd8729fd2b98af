import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useState, type ReactNode } from "react";
import type { Bench, BenchDocument, Module } from "../api/client";
import { latestBenchQuery } from "../api/queries";
import { BenchContext, SavingContext, type BenchWork, type Saving } from "./BenchContext";
import { begin, record, redo, undo } from "./history";
import { useSaving } from "./useSaving";
import css from "./BenchGate.module.css";

/** Opens the bench; its children work on it. */
export function BenchGate({ children }: { children: ReactNode }) {
  const { data, error, refetch } = useQuery(latestBenchQuery);
  if (data) {
    return <OpenBench document={data}>{children}</OpenBench>;
  }
  if (!error) return <p className={css.wait}>Opening the bench…</p>;
  return (
    <div className={css.wait} role="alert">
      <h1>The bench could not be opened</h1>
      <p>{error.message}</p>
      <Button variant="contained" onClick={() => void refetch()}>
        Try again
      </Button>
    </div>
  );
}

function OpenBench({ document: opened, children }: { document: BenchDocument; children: ReactNode }) {
  const [history, setHistory] = useState(() => begin(opened.bench));
  const [selected, setSelected] = useState("");
  const bench = history.present;
  const { state: save, revision, settle } = useSaving(opened.id, opened.revision, bench);
  const module = bench.modules.find((m) => m.id === selected) ?? (bench.modules[0] as Module);

  const change = useCallback((next: (b: Bench) => Bench, tag = "") => {
    setHistory((h) => record(h, next(h.present), tag, Date.now()));
  }, []);
  const changeModule = useCallback(
    (next: (m: Module) => Module, tag = "") =>
      change(
        (b) => ({ ...b, modules: b.modules.map((m) => (m.id === module.id ? next(m) : m)) }),
        tag && `${module.id} ${tag}`,
      ),
    [change, module.id],
  );
  const undoLast = useCallback(() => setHistory(undo), []);
  const redoLast = useCallback(() => setHistory(redo), []);

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (!(e.ctrlKey || e.metaKey) || e.altKey || e.target instanceof HTMLInputElement) return; // inputs undo their own
      const key = e.key.toLowerCase();
      if (key === "z" || key === "y") {
        e.preventDefault();
        if (key === "y" || e.shiftKey) redoLast();
        else undoLast();
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [undoLast, redoLast]);

  const work = useMemo<BenchWork>(
    () => ({
      bench,
      module,
      selectModule: setSelected,
      addModule: () => {
        const ids = new Set(bench.modules.map((m) => m.id));
        let n = ids.size + 1;
        while (ids.has(`module-${n}`)) n++;
        const added = { ...module, id: `module-${n}`, name: `Module ${n}`, screen: { rows: [] } };
        change((b) => ({ ...b, modules: [...b.modules, added] }));
        setSelected(added.id);
      },
      removeModule: () => change((b) => ({ ...b, modules: b.modules.filter((m) => m.id !== module.id) })),
      change,
      changeModule,
      undo: undoLast,
      redo: redoLast,
      canUndo: history.past.length > 0,
      canRedo: history.future.length > 0,
    }),
    [bench, module, change, changeModule, undoLast, redoLast, history],
  );
  const saving = useMemo<Saving>(
    () => ({
      save,
      revision,
      keepMine: settle,
      takeTheirs: (theirs) => {
        setHistory((h) => record(h, theirs.bench, "", Date.now()));
        settle(theirs);
      },
    }),
    [save, revision, settle],
  );
  return (
    <BenchContext value={work}>
      <SavingContext value={saving}>{children}</SavingContext>
    </BenchContext>
  );
}
