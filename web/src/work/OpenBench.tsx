import { useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState, type ReactNode } from "react";
import { wiringQuery } from "../api/queries";
import { client, unwrap, type Bench, type BenchDocument, type Module, type Remedy } from "../api/client";
import { BenchContext, SavingContext, type BenchWork, type Saving } from "./BenchContext";
import { begin, record, redo, undo } from "./history";
import { remedied } from "./patch";
import { reason } from "./reason";
import { laid, planOf, setupOf, wiringOf } from "./setup";
import { useSaving } from "./useSaving";
import { useLatest } from "../ui/useLatest";

interface Props {
  document: BenchDocument;
  /** Id of the module on the dock; the first where the bench has none of that id. */
  selected: string;
  onSelect: (id: string) => void;
  children: ReactNode;
}

/** Holds an open bench with its history, and saves it as it changes; its children work on it. */
export function OpenBench({ document: opened, selected, onSelect, children }: Props) {
  const [history, setHistory] = useState(() => begin(opened.bench));
  const bench = history.present;
  const { state: save, revision, settle } = useSaving(opened, bench);
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
  const latest = useLatest({ bench, module });
  const join = useCallback<BenchWork["join"]>(
    async (kind) => {
      const { bench: b, module: m } = latest.current;
      try {
        const body = { bench: planOf(b, m), module: b.modules.indexOf(m) };
        const choice = unwrap(await client.POST("/api/plan/links", { body })).find((l) => l.kind === kind);
        if (!choice) return undefined;
        if (!choice.fits && kind === "backpack") return `It does not fit: ${choice.why ?? ""}.`;
        const { bench: joined, error } = remedied(latest.current.bench, { label: "", patch: choice.patch });
        if (joined) change(() => joined);
        return error ?? (choice.fits ? undefined : `Its pins are left open: ${choice.why ?? ""}.`);
      } catch (e) {
        return reason(e);
      }
    },
    [change, latest],
  );
  // What was done before the page was opened is undone too, as far back as states are kept.
  const [since, setSince] = useState(opened.revision);
  const reaching = useRef(false);
  const reachBack = useCallback(async () => {
    if (reaching.current || since < 2) return;
    reaching.current = true;
    try {
      const path = { id: opened.id };
      const states = unwrap(await client.GET("/api/benches/{id}/states", { params: { path } }));
      const revision = states.find((s) => s.revision < since)?.revision;
      setSince(revision ?? 1);
      if (revision === undefined) return;
      const before = unwrap(
        await client.GET("/api/benches/{id}/states/{revision}", { params: { path: { ...path, revision } } }),
      );
      setHistory((h) => (h.past.length > 0 ? h : undo({ ...h, past: [before.bench] })));
    } catch {
      // The program cannot be reached: there is nothing to undo to, until it can be.
    } finally {
      reaching.current = false;
    }
  }, [opened.id, since]);
  const past = useLatest(history.past.length);
  const undoLast = useCallback(() => {
    if (past.current > 0) setHistory(undo);
    else void reachBack();
  }, [past, reachBack]);
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

  const onTable = laid(bench);
  const { data: wired } = useQuery({ ...wiringQuery(wiringOf(bench)), enabled: onTable });
  const joined = onTable ? wired?.joined : undefined;
  const [composed, setComposed] = useState<Record<string, string>>({});
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
      addModules: async (like, count) => {
        const module = bench.modules.indexOf(like);
        try {
          const { patch, ids, why, would } = unwrap(
            await client.POST("/api/plan/like", { body: { bench, module, count } }),
          );
          const { bench: grown, error } = remedied(bench, { label: "", patch });
          if (!grown) return error;
          if (ids.length > 0) {
            change((b) =>
              b === bench ? grown : { ...b, modules: [...b.modules, ...grown.modules.slice(-ids.length)] },
            );
            onSelect(ids[0] as string);
          }
          return why && `${ids.length} of ${count} fit: ${why}. What would make room: ${(would ?? []).join("; ")}.`;
        } catch (e) {
          return reason(e);
        }
      },
      removeModule: (id) => {
        if (bench.modules.length < 2) return;
        const at = bench.modules.findIndex((m) => m.id === id);
        const next = bench.modules[at + 1] ?? bench.modules[at - 1];
        change((b) => ({ ...b, modules: b.modules.filter((m) => m.id !== id) }));
        if (id === module.id && next) onSelect(next.id);
      },
      join,
      change,
      changeModule,
      remedy: (r: Remedy) => {
        const { bench: mended, error } = remedied(bench, r);
        if (mended) change(() => mended);
        return error;
      },
      undo: undoLast,
      redo: redoLast,
      canUndo: history.past.length > 0 || since > 1,
      canRedo: history.future.length > 0,
    }),
    [
      opened.id,
      bench,
      module,
      composed,
      setup,
      setupFor,
      onSelect,
      join,
      change,
      changeModule,
      undoLast,
      redoLast,
      history,
      since,
    ],
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

/** Index of the screen of a module that was chosen to be composed; the first where none was. */
const screenIn = (m: Module, composed: Record<string, string>): number =>
  Math.max(
    m.screens.findIndex((s) => s.id === composed[m.id]),
    0,
  );
