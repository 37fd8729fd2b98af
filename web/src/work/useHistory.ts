import { useCallback, useEffect, useRef, useState } from "react";
import { client, unwrap, type Bench, type BenchDocument } from "../api/client";
import type { Me } from "../api/room";
import { useLatest } from "../ui/useLatest";
import { adopt, begin, record, redo, undo } from "./history";

/**
 * The bench with its history. At the desk what was done there before the page was opened is undone too, as far back as
 * states are kept; what others did is theirs to undo.
 */
export function useHistory(opened: BenchDocument, { desk: atDesk, role }: Me) {
  const [history, setHistory] = useState(() => begin(opened.bench));
  const watches = role === "watches"; // what it would change could not be stored
  const change = useCallback(
    (next: (b: Bench) => Bench, tag = "") => {
      if (!watches) setHistory((h) => record(h, next(h.present), tag, Date.now()));
    },
    [watches],
  );

  const [since, setSince] = useState(atDesk ? opened.revision : 1);
  const reaching = useRef(false);
  const reached = useRef(opened.bench); // as it stood at since
  const reachBack = useCallback(async () => {
    if (reaching.current || since < 2) return;
    reaching.current = true;
    try {
      const path = { id: opened.id };
      const states = unwrap(await client.GET("/api/benches/{id}/states", { params: { path } }));
      const own = states.find((s) => s.revision === since && !s.by);
      const revision = own && states.find((s) => s.revision < since)?.revision;
      setSince(revision ?? 1);
      if (revision === undefined) return;
      const before = unwrap(
        await client.GET("/api/benches/{id}/states/{revision}", { params: { path: { ...path, revision } } }),
      );
      const step = { before: before.bench, after: reached.current };
      reached.current = before.bench;
      setHistory((h) => (h.past.length > 0 ? h : undo({ ...h, past: [step] })));
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

  const takeUp = useCallback((known: Bench, next: Bench) => setHistory((h) => adopt(h, known, next)), []);
  return {
    bench: history.present,
    taken: history.taken,
    change,
    takeUp,
    undo: undoLast,
    redo: redoLast,
    canUndo: history.past.length > 0 || since > 1,
    canRedo: history.future.length > 0,
  };
}
