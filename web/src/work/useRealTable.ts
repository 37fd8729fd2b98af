import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect } from "react";
import { realTableQuery, WATCH, type RealTable } from "../api/realTable";

const NAME = "slatebell-page";

/** The name that this page gives itself, as long as its tab is open. */
export function pageName(): string {
  const kept = sessionStorage.getItem(NAME);
  if (kept) return kept;
  const made = `page-${crypto.getRandomValues(new Uint32Array(1))[0]?.toString(36) ?? "0"}`;
  sessionStorage.setItem(NAME, made);
  return made;
}

/** How things stand with the real table, and whether this page drives it. */
export function useRealTable() {
  const queries = useQueryClient();
  const { data: table } = useQuery(realTableQuery);
  const by = pageName();
  const told = useCallback((now: RealTable) => void queries.setQueryData(realTableQuery.queryKey, now), [queries]);
  return { table, by, told, drives: table?.connected === true && table.by === by };
}

/** What the tabs of this browser share of the real table: a lock, and a channel of its name. */
const SHARED = "slatebell-table";

/**
 * Lets the page be told of what changes on the real table. Of all tabs of a browser one is told by the program, and tells the
 * others: a browser keeps few connections to a program, and each that is told takes one.
 */
export function useWatch() {
  const { told } = useRealTable();
  useEffect(() => {
    const channel = new BroadcastChannel(SHARED);
    channel.onmessage = (e: MessageEvent<RealTable>) => told(e.data);
    if (!("locks" in navigator)) return () => channel.close(); // not this machine's own page
    const leaves = new AbortController();
    let source: EventSource | undefined;
    const watch = () =>
      new Promise<void>((done) => {
        source = new EventSource(WATCH);
        source.onmessage = (e: MessageEvent<string>) => {
          const now = JSON.parse(e.data) as RealTable;
          told(now);
          channel.postMessage(now);
        };
        leaves.signal.addEventListener("abort", () => done());
      });
    navigator.locks.request(SHARED, { signal: leaves.signal }, watch).catch(() => undefined); // it has left before its turn
    return () => {
      leaves.abort();
      source?.close();
      channel.close();
    };
  }, [told]);
}
