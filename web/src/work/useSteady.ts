import type { UseQueryResult } from "@tanstack/react-query";
import { useState } from "react";

/** What was computed last stays in sight while the next cannot be; trouble says why it cannot. */
export interface Steady<T> {
  data: T | undefined;
  trouble: Error | null;
  again: () => void;
}

/** Holds the last answer of a query over answers that fail. */
export function useSteady<T>(query: UseQueryResult<T>): Steady<T> {
  const { data, error, refetch } = query;
  const [last, setLast] = useState(data);
  if (data !== undefined && data !== last) setLast(data);
  return { data: data ?? last, trouble: error, again: () => void refetch() };
}
