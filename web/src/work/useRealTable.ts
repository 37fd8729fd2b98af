import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect } from "react";
import { realTableQuery, WATCH, type RealTable } from "../api/realTable";
import { pageName } from "./pageName";
import { useMe } from "./useMe";

/** How things stand with the real table, and whether this page drives it. */
export function useRealTable() {
  const queries = useQueryClient();
  const { desk } = useMe();
  const { data: table } = useQuery({ ...realTableQuery, enabled: desk });
  const by = pageName();
  const told = useCallback((now: RealTable) => void queries.setQueryData(realTableQuery.queryKey, now), [queries]);
  return { desk, table, by, told, drives: table?.connected === true && table.by === by };
}

/** What the tabs of this browser share of the real table: a lock, and a channel of its name. */
const SHARED = "slatebell-table";

/**
 * Lets the page be told of what changes on the real table. Of all tabs of a browser one is told by the program, and tells the
 * others: a browser keeps few connections to a program, and each that is told takes one.
 */
export function useWatch() {
  const { desk, told } = useRealTable();
  useEffect(() => {
    if (!desk) return; // the real table is the desk’s
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
  }, [desk, told]);
}
