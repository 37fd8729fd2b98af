import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { realTableQuery, type RealTable } from "../api/realTable";

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
