import { useQueryClient, type QueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { ApiError, patchBench, type Bench, type BenchDocument } from "../api/client";
import { forget, keep } from "./kept";
import { pageName } from "./pageName";
import { patches } from "./patch";
import { UNREACHABLE, reason } from "./reason";
import { Sync, type Change } from "./sync";

const DELAY_MS = 150;
const SAID_MS = 40;
const RETRY_MS = 2000;

/** A page that is being left is told that its requests failed before it is told of that, though they go on. */
const LEAVING_MS = 300;

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

/** A document as the program has it, as a value at a revision. */
const revised = (d: BenchDocument) => ({ revision: d.revision, value: d.bench });

/**
 * Saves a bench as it changes, one write at a time, and takes up what others store meanwhile. What both changed at the
 * same place stops saving until it is settled. What cannot be stored is kept in the browser, and sent again.
 * @param bench as it is here, with what was taken up so many times
 * @param takeUp is told what the bench becomes by what others stored, and what it was here
 */
export function useSaving(
  opened: BenchDocument,
  { bench, taken }: { bench: Bench; taken: number },
  takeUp: (known: Bench, next: Bench) => void,
) {
  const { id } = opened;
  const queries = useQueryClient();
  const [state, setState] = useState<SaveState>({ kind: "saved" });
  const [revision, setRevision] = useState(opened.revision);
  const [sync] = useState(() => new Sync<Bench>(revised(opened), patches));
  const told = useRef(0); // how often there was something to take up
  const stopped = useRef(false);
  const failing = useRef(false);
  const timer = useRef<number | undefined>(undefined);
  const again = useRef<() => void>(() => undefined);

  /** Does something by which the bench may become another one here. */
  const joining = useCallback(
    (act: () => void) => {
      const known = sync.now;
      act();
      if (sync.now !== known) {
        told.current++;
        takeUp(known, sync.now);
      }
      setRevision(sync.revision);
    },
    [sync, takeUp],
  );

  const write = useCallback(async () => {
    if (stopped.current) return;
    let sending = undefined as ReturnType<typeof sync.send>;
    const busy = sync.busy;
    joining(() => (sending = sync.send()));
    if (!sending) {
      if (!busy) setState({ kind: "saved" });
      return;
    }
    setState((s) => (s.kind === "failed" ? s : { kind: "saving" }));
    try {
      const body = JSON.stringify(sending.patch);
      const answering = patchBench(id, sending.revision, body, pageName(), body.length < OUTLIVING);
      queries.setQueryData(lastWrite(id), Promise.allSettled([answering]));
      const answer = await answering;
      failing.current = false;
      forget(id);
      joining(() => sync.answered(answer.revision, answer.rest));
      setState({ kind: "saved" });
      if (!sync.clean) again.current();
    } catch (e) {
      if (!(e instanceof ApiError)) await new Promise((left) => window.setTimeout(left, LEAVING_MS));
      joining(() => sync.failed());
      if (e instanceof ApiError && e.current) {
        stopped.current = true;
        setState({ kind: "conflict", theirs: e.current });
        return;
      }
      failing.current = true;
      keep(id, sync.revision, sync.now);
      setState({ kind: "failed", why: e instanceof ApiError ? reason(e) : UNREACHABLE });
      window.clearTimeout(timer.current);
      timer.current = window.setTimeout(() => again.current(), RETRY_MS);
    }
  }, [id, queries, sync, joining]);

  useEffect(() => {
    again.current = () => void write();
  }, [write]);

  // Whoever looks at the page from outside can tell at once that something waits to be stored.
  useEffect(() => {
    document.documentElement.toggleAttribute("data-unsaved", bench !== sync.now || !sync.clean);
  }, [bench, state, sync]);

  useEffect(() => {
    if (taken !== told.current) return; // what was taken up is on its way
    sync.edit(bench);
    if (failing.current) {
      keep(id, sync.revision, bench); // sent with the next attempt
      return;
    }
    if (stopped.current || sync.clean) return;
    window.clearTimeout(timer.current);
    timer.current = window.setTimeout(() => again.current(), DELAY_MS);
    // What is not stored is not called saved; but the glass is drawn first.
    const said = window.setTimeout(() => setState((s) => (s.kind === "saved" ? { kind: "saving" } : s)), SAID_MS);
    return () => window.clearTimeout(said);
  }, [bench, taken, id, sync]);

  // The last change still goes out with the page; what may not arrive is kept, and looked at on return.
  useEffect(() => {
    const onHide = () => {
      if (sync.clean) return;
      keep(id, sync.revision, sync.now);
      if (stopped.current) return;
      window.clearTimeout(timer.current);
      const last = sync.last;
      const sent = sync.now;
      const body = JSON.stringify(last.patch);
      if (last.patch.length === 0 || body.length >= OUTLIVING) return;
      const answering = patchBench(id, last.revision, body, pageName(), true).then(
        (answer) => {
          joining(() => sync.arrived(sent, answer.revision, answer.rest)); // the page came back: it goes on from here
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
  }, [id, queries, sync, joining]);

  /** Settles a conflict; returns what takes what is stored in place of what both changed. */
  const settle = useCallback(
    (from: BenchDocument): ((now: Bench) => Bench) => {
      let other = (now: Bench) => now;
      joining(() => (other = sync.settle(revised(from))));
      stopped.current = false;
      setState({ kind: "saving" });
      window.clearTimeout(timer.current);
      timer.current = window.setTimeout(() => again.current(), DELAY_MS);
      return other;
    },
    [sync, joining],
  );

  /** Others stored something; returns whether the bench is to be read anew. */
  const hear = useCallback(
    (what: Change | BenchDocument): boolean => {
      joining(() => sync.happened("bench" in what ? revised(what) : what));
      if (!sync.clean && !failing.current && !stopped.current) again.current();
      return sync.behind;
    },
    [sync, joining],
  );

  return { state, revision, settle, hear };
}
