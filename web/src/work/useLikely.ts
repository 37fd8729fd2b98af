import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef } from "react";
import type { Bench } from "../api/client";
import { ahead } from "./ahead";
import { useBench } from "./BenchContext";
import { tableQuery } from "./setup";

/** What may be done to the table next, the likeliest first. */
export type Likely = () => ((b: Bench) => Bench)[];

/**
 * Asks what a maker's next act may come to, as soon as the page is drawn with the last one: where it is that, its answer is at hand.
 * One is asked for after the other; where the bench changes in between, the rest is left, or asked of the bench as it is then, as after it was stored.
 * @returns what tells it with each change what may come after it
 */
export function useLikely() {
  const { bench, setup } = useBench();
  const queries = useQueryClient();
  const told = useRef<Likely>(undefined);
  useEffect(() => {
    const likely = told.current;
    if (!likely) return;
    let left = false;
    const ask = async () => {
      for (const next of likely()) {
        if (left) return;
        await ahead(queries, tableQuery(next(bench), setup));
      }
      if (told.current === likely) told.current = undefined;
    };
    const timer = window.setTimeout(() => void ask());
    return () => {
      left = true;
      window.clearTimeout(timer);
    };
  }, [queries, bench, setup]);
  return useCallback((likely: Likely | undefined) => {
    told.current = likely;
  }, []);
}
