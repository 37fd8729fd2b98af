import { replaceEqualDeep, type UseQueryResult } from "@tanstack/react-query";
import { useState } from "react";

/** What was computed last stays in sight while the next cannot be; trouble says why it cannot. */
export interface Steady<T> {
  data: T | undefined;
  /** The same, but for an early answer. */
  landed: T | undefined;
  trouble: Error | null;
  again: () => void;
}

/**
 * Holds the last answer of a query over answers that fail, and the trouble until there is a new one. What is the same in two answers
 * stays the same object, though they are answers to different questions: what is drawn from it is not drawn again.
 * @param early stands for the query's answer: the next one, which is there before the query asks for it
 */
export function useSteady<T>(query: UseQueryResult<T, unknown>, early?: T): Steady<T> {
  const { isPlaceholderData, refetch } = query;
  const data = early ?? query.data;
  const error = query.error as Error | null; // what is thrown here is one, whatever the answer's schema says
  const [held, setHeld] = useState({ answer: data, data, landed: data });
  let last = held;
  if (data !== undefined && data !== held.answer)
    last = { ...held, answer: data, data: replaceEqualDeep(held.data, data) };
  if (early === undefined && last.landed !== last.data) last = { ...last, landed: last.data };
  if (last !== held) setHeld(last);
  const [failed, setFailed] = useState(error);
  const answered = data !== undefined && !isPlaceholderData && !error;
  const trouble = answered ? null : (error ?? failed);
  if (trouble !== failed) setFailed(trouble);
  return { data: last.data, landed: last.landed, trouble, again: () => void refetch() };
}
