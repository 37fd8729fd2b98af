import { replaceEqualDeep, type UseQueryResult } from "@tanstack/react-query";
import { useState } from "react";

/** What was computed last stays in sight while the next cannot be; trouble says why it cannot. */
export interface Steady<T> {
  data: T | undefined;
  trouble: Error | null;
  again: () => void;
}

/**
 * Holds the last answer of a query over answers that fail, and the trouble until there is a new one. What is the same in two answers
 * stays the same object, though they are answers to different questions: what is drawn from it is not drawn again.
 */
export function useSteady<T>(query: UseQueryResult<T, unknown>): Steady<T> {
  const { data, isPlaceholderData, refetch } = query;
  const error = query.error as Error | null; // what is thrown here is one, whatever the answer's schema says
  const [held, setHeld] = useState({ answer: data, data });
  let last = held;
  if (data !== undefined && data !== held.answer) {
    last = { answer: data, data: replaceEqualDeep(held.data, data) };
    setHeld(last);
  }
  const [failed, setFailed] = useState(error);
  const answered = data !== undefined && !isPlaceholderData && !error;
  const trouble = answered ? null : (error ?? failed);
  if (trouble !== failed) setFailed(trouble);
  return { data: last.data, trouble, again: () => void refetch() };
}
