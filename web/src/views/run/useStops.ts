import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useCallback, useDeferredValue, useMemo, useState } from "react";
import { stopsQuery } from "../../api/queries";
import { reason } from "../../work/reason";

/** The search for steps to stop at. */
export interface StopSearch {
  text: string;
  setText: (text: string) => void;
  /** What was found, in words; empty while nothing is searched for. */
  found: string;
  error: string | undefined;
}

/** The steps at which a run stops: marked by hand, or found by step number, address or meaning. */
export function useStops(run: string | undefined) {
  const [marks, setMarks] = useState<ReadonlySet<number>>(new Set());
  const [text, setText] = useState("");
  const sought = useDeferredValue(text.trim());
  const { data, error } = useQuery({
    ...stopsQuery(run ?? "", sought),
    enabled: run !== undefined && sought !== "",
    placeholderData: keepPreviousData,
  });
  const found = sought && !error ? data : undefined;
  const stops = useMemo(() => new Set([...marks, ...(found?.steps ?? [])]), [marks, found]);
  const toggle = useCallback((step: number) => {
    setMarks((before) => {
      const next = new Set(before);
      if (!next.delete(step)) next.add(step);
      return next;
    });
  }, []);
  const n = found?.steps.length ?? 0;
  const search: StopSearch = {
    text,
    setText,
    found: found ? `${n === 0 ? "nowhere" : n === 1 ? "1 stop" : `${n} stops`}: ${found.sought}` : "",
    error: sought && error ? reason(error) : undefined,
  };
  return { stops, toggle, search };
}
