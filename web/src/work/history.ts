import { merge } from "./merge";

/** What somebody did here: the value before and after it. */
interface Step<T> {
  before: T;
  after: T;
}

/** A value with what was done to it here. What others do to it changes the present alone. */
export interface History<T> {
  past: Step<T>[];
  present: T;
  future: Step<T>[];
  /** How often what others did was taken up. */
  taken: number;
  /** Changes with the same tag, one soon after the other, undo as one. */
  tag: string;
  at: number;
}

const LIMIT = 300;
const TOGETHER_MS = 900;

export function begin<T>(present: T): History<T> {
  return { past: [], present, future: [], taken: 0, tag: "", at: 0 };
}

export function record<T>(h: History<T>, next: T, tag: string, now: number): History<T> {
  const last = h.past.at(-1);
  const joins = last !== undefined && tag !== "" && tag === h.tag && now - h.at < TOGETHER_MS;
  const past = joins
    ? [...h.past.slice(0, -1), { before: without(last, h.present), after: next }]
    : [...h.past, { before: h.present, after: next }].slice(-LIMIT);
  return { ...h, past, present: next, future: [], tag, at: now };
}

/**
 * Takes up what others did to the value.
 * @param known what it was here when they did it
 */
export function adopt<T>(h: History<T>, known: T, next: T): History<T> {
  return {
    ...h,
    taken: h.taken + 1,
    present: h.present === known ? next : merge(known, h.present, next, "mine").value,
  };
}

/** The present without a step: others' changes stay, also of what the step changed. */
const without = <T>(step: Step<T>, present: T): T =>
  step.after === present ? step.before : merge(step.after, step.before, present, "theirs").value;

export function undo<T>(h: History<T>): History<T> {
  const last = h.past.at(-1);
  if (!last) return h;
  const before = without(last, h.present);
  return {
    ...h,
    past: h.past.slice(0, -1),
    present: before,
    future: [{ before, after: h.present }, ...h.future],
    tag: "",
    at: 0,
  };
}

export function redo<T>(h: History<T>): History<T> {
  const [next, ...future] = h.future;
  if (!next) return h;
  const after = without({ before: next.after, after: next.before }, h.present);
  return { ...h, past: [...h.past, { before: h.present, after }], present: after, future, tag: "", at: 0 };
}
