import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import type { BenchDocument } from "../api/client";
import { logQuery } from "../api/faults";
import { benchesQuery } from "../api/queries";
import { eventsOf, meQuery, type Seen } from "../api/room";
import { useLatest } from "../ui/useLatest";
import { pageName } from "./pageName";
import type { Change } from "./sync";

/** Nothing heard for so long, in milliseconds: the connection is dead, and begun anew. The program says something every ten seconds. */
const DEAD_MS = 25_000;
const AGAIN_MS = 1000;

/**
 * Hears what others do on a bench, as long as the page is looked at.
 * @param revision the one that the page has
 * @param hear takes up what was stored; it returns whether the bench is to be read anew
 * @returns who has the bench open
 */
export function useEvents(id: number, revision: number, hear: (what: Change | BenchDocument) => boolean): Seen[] {
  const queries = useQueryClient();
  const [here, setHere] = useState<Seen[]>([]);
  const since = useLatest(revision);
  const take = useLatest(hear);
  useEffect(() => {
    let source: EventSource | undefined;
    let timer: number | undefined;
    const close = () => {
      source?.close();
      source = undefined;
      window.clearTimeout(timer);
    };
    const open = (from = since.current) => {
      close();
      if (document.visibilityState === "hidden") return; // a browser keeps few connections to a program
      const s = new EventSource(eventsOf(id, pageName(), from));
      source = s;
      const alive = () => {
        window.clearTimeout(timer);
        timer = window.setTimeout(open, DEAD_MS);
      };
      const on = <T>(kind: string, act: (data: T) => void) =>
        s.addEventListener(kind, (e: MessageEvent<string>) => {
          alive();
          act(JSON.parse(e.data) as T);
        });
      on<Change>("change", (c) => {
        if (take.current(c)) open(0);
      });
      on<BenchDocument>("renewed", (d) => void take.current(d));
      on<{ all: Seen[] }>("here", ({ all }) => setHere(all));
      on("logged", () => void queries.invalidateQueries({ queryKey: logQuery(id).queryKey.slice(0, 2) }));
      on("moved", () => void queries.invalidateQueries({ queryKey: benchesQuery.queryKey }));
      on("beat", () => undefined);
      s.onerror = () => {
        if (s.readyState !== EventSource.CLOSED) return; // it tries again by itself
        void queries.invalidateQueries({ queryKey: meQuery.queryKey }); // it may not be let in any more
        window.clearTimeout(timer);
        timer = window.setTimeout(open, AGAIN_MS);
      };
      alive();
    };
    const look = () => (document.visibilityState === "hidden" ? close() : open());
    open();
    document.addEventListener("visibilitychange", look);
    window.addEventListener("pagehide", close);
    window.addEventListener("pageshow", look);
    return () => {
      close();
      document.removeEventListener("visibilitychange", look);
      window.removeEventListener("pagehide", close);
      window.removeEventListener("pageshow", look);
    };
  }, [id, queries, since, take]);
  return here;
}
