import { useCallback, useEffect, useRef, useState } from "react";
import { ApiError, client, type Bench, type BenchDocument } from "../api/client";

const DELAY_MS = 150;
const RETRY_MS = 3000;

export type SaveState =
  | { kind: "saved" }
  | { kind: "saving" }
  | { kind: "failed"; why: string }
  | { kind: "conflict"; theirs: BenchDocument };

/**
 * Saves a bench as it changes, one write at a time, each against the revision
 * that the one before returned. A stale write stops saving until it is settled.
 */
export function useSaving(id: number, firstRevision: number, bench: Bench) {
  const [state, setState] = useState<SaveState>({ kind: "saved" });
  const [revision, setRevision] = useState(firstRevision);
  const current = useRef(bench);
  const saved = useRef(bench);
  const known = useRef(firstRevision);
  const busy = useRef(false);
  const stopped = useRef(false);
  const timer = useRef<number | undefined>(undefined);
  const again = useRef<() => void>(() => undefined);

  const write = useCallback(
    async (keepalive = false) => {
      if (busy.current || stopped.current || current.current === saved.current) return;
      busy.current = true;
      const sending = current.current;
      setState((s) => (s.kind === "failed" ? s : { kind: "saving" }));
      let wait = 0;
      try {
        const { data, error, response } = await client.PUT("/api/benches/{id}", {
          params: { path: { id } },
          body: { revision: known.current, bench: sending },
          keepalive,
        });
        if (data) {
          saved.current = sending;
          known.current = data.revision;
          setRevision(data.revision);
          setState({ kind: "saved" });
        } else if (error && "current" in error) {
          stopped.current = true;
          setState({ kind: "conflict", theirs: error.current });
        } else {
          wait = RETRY_MS;
          setState({ kind: "failed", why: new ApiError(response.status, error).message });
        }
      } catch {
        wait = RETRY_MS;
        setState({ kind: "failed", why: "the program cannot be reached; is it still running?" });
      }
      busy.current = false;
      if (!stopped.current && current.current !== saved.current) {
        window.clearTimeout(timer.current);
        timer.current = window.setTimeout(() => again.current(), wait);
      }
    },
    [id],
  );

  useEffect(() => {
    again.current = () => void write();
  }, [write]);

  useEffect(() => {
    current.current = bench;
    if (stopped.current) return;
    if (bench === saved.current) {
      setState({ kind: "saved" });
      return;
    }
    window.clearTimeout(timer.current);
    timer.current = window.setTimeout(() => again.current(), DELAY_MS);
  }, [bench]);

  useEffect(() => {
    const flush = () => void write(true);
    window.addEventListener("pagehide", flush);
    return () => window.removeEventListener("pagehide", flush);
  }, [write]);

  /** Settles a conflict: saving goes on from the given revision. */
  const settle = useCallback((from: BenchDocument) => {
    known.current = from.revision;
    saved.current = from.bench;
    stopped.current = false;
    setRevision(from.revision);
    setState({ kind: "saving" });
    window.clearTimeout(timer.current);
    timer.current = window.setTimeout(() => again.current(), 0);
  }, []);

  return { state, revision, settle };
}
