import { useQueryClient, type QueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { ApiError, patchBench, type Bench, type BenchDocument } from "../api/client";
import { forget, keep } from "./kept";
import { changes } from "./patch";
import { UNREACHABLE, reason } from "./reason";

const DELAY_MS = 150;
const SAID_MS = 40;
const RETRY_MS = 2000;

/** Requests that outlive their page carry this many bytes at most. */
const OUTLIVING = 60_000;

export type SaveState =
  | { kind: "saved" }
  | { kind: "saving" }
  | { kind: "failed"; why: string }
  | { kind: "conflict"; theirs: BenchDocument };

/** Where the last write of a bench is kept: who closes one and opens it again waits for it. */
const lastWrite = (id: number) => ["last write", id];

/** Settles once nothing of a bench is under way any more. */
export const settled = (queries: QueryClient, id: number): Promise<unknown> =>
  queries.getQueryData<Promise<unknown>>(lastWrite(id)) ?? Promise.resolve();

/**
 * Saves a bench as it changes, one write at a time, each a patch against the revision that the one before returned. A
 * stale write stops saving until it is settled. What cannot be stored is kept in the browser, and sent again.
 */
export function useSaving(opened: BenchDocument, bench: Bench) {
  const { id } = opened;
  const queries = useQueryClient();
  const [state, setState] = useState<SaveState>({ kind: "saved" });
  const [revision, setRevision] = useState(opened.revision);
  const current = useRef(bench);
  const stored = useRef(opened.bench);
  const known = useRef(opened.revision);
  const busy = useRef<Bench | null>(null); // what is being sent
  const stopped = useRef(false);
  const failing = useRef(false);
  const timer = useRef<number | undefined>(undefined);
  const again = useRef<() => void>(() => undefined);

  const write = useCallback(async () => {
    if (busy.current || stopped.current) return;
    const sending = current.current;
    const body = JSON.stringify(changes(stored.current, sending));
    if (body === "[]") {
      stored.current = sending;
      setState({ kind: "saved" });
      return;
    }
    busy.current = sending;
    setState((s) => (s.kind === "failed" ? s : { kind: "saving" }));
    try {
      const answering = patchBench(id, known.current, body, body.length < OUTLIVING);
      queries.setQueryData(lastWrite(id), Promise.allSettled([answering]));
      const answer = await answering;
      busy.current = null;
      failing.current = false;
      if (answer.revision > known.current) {
        stored.current = sending;
        known.current = answer.revision;
        forget(id);
        setRevision(answer.revision);
      }
      setState({ kind: "saved" });
      if (current.current !== sending) again.current();
    } catch (e) {
      busy.current = null;
      if (e instanceof ApiError && e.current) {
        stopped.current = true;
        setState({ kind: "conflict", theirs: e.current });
        return;
      }
      failing.current = true;
      keep(id, known.current, current.current);
      setState({ kind: "failed", why: e instanceof ApiError ? reason(e) : UNREACHABLE });
      window.clearTimeout(timer.current);
      timer.current = window.setTimeout(() => again.current(), RETRY_MS);
    }
  }, [id, queries]);

  useEffect(() => {
    again.current = () => void write();
  }, [write]);

  // Whoever looks at the page from outside can tell at once that something waits to be stored.
  useEffect(() => {
    document.documentElement.toggleAttribute("data-unsaved", bench !== stored.current);
  }, [bench, state]);

  useEffect(() => {
    current.current = bench;
    if (failing.current) {
      keep(id, known.current, bench); // sent with the next attempt
      return;
    }
    if (stopped.current || bench === stored.current) return;
    window.clearTimeout(timer.current);
    timer.current = window.setTimeout(() => again.current(), DELAY_MS);
    // What is not stored is not called saved; but the glass is drawn first.
    const said = window.setTimeout(() => setState((s) => (s.kind === "saved" ? { kind: "saving" } : s)), SAID_MS);
    return () => window.clearTimeout(said);
  }, [bench, id]);

  // The last change still goes out with the page; what may not arrive is kept, and looked at on return.
  useEffect(() => {
    const onHide = () => {
      const last = current.current;
      if (last === stored.current) return;
      keep(id, known.current, last);
      if (stopped.current || last === busy.current) return;
      window.clearTimeout(timer.current);
      const body = JSON.stringify(changes(busy.current ?? stored.current, last));
      const against = known.current + (busy.current ? 1 : 0);
      if (body === "[]" || body.length >= OUTLIVING) return;
      const answering = patchBench(id, against, body, true).then(
        (answer) => {
          stored.current = last; // the page came back: it goes on from here
          known.current = answer.revision;
          setRevision(answer.revision);
          forget(id);
        },
        () => undefined, // what was kept stays
      );
      queries.setQueryData(lastWrite(id), Promise.allSettled([settled(queries, id), answering]));
    };
    window.addEventListener("pagehide", onHide);
    return () => {
      window.removeEventListener("pagehide", onHide);
      window.clearTimeout(timer.current);
      onHide();
    };
  }, [id, queries]);

  /** Settles a conflict: saving goes on from the given revision. */
  const settle = useCallback((from: BenchDocument) => {
    known.current = from.revision;
    stored.current = from.bench;
    stopped.current = false;
    setRevision(from.revision);
    setState({ kind: "saving" });
    window.clearTimeout(timer.current);
    timer.current = window.setTimeout(() => again.current(), 0);
  }, []);

  return { state, revision, settle };
}
