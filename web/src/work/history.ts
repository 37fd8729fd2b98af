/** A value with what came before and after it. */
export interface History<T> {
  past: T[];
  present: T;
  future: T[];
  /** Changes with the same tag, one soon after the other, undo as one. */
  tag: string;
  at: number;
}

const LIMIT = 300;
const TOGETHER_MS = 900;

export function begin<T>(present: T): History<T> {
  return { past: [], present, future: [], tag: "", at: 0 };
}

export function record<T>(h: History<T>, next: T, tag: string, now: number): History<T> {
  const joins = tag !== "" && tag === h.tag && now - h.at < TOGETHER_MS;
  const past = joins ? h.past : [...h.past, h.present].slice(-LIMIT);
  return { past, present: next, future: [], tag, at: now };
}

export function undo<T>(h: History<T>): History<T> {
  const previous = h.past.at(-1);
  if (previous === undefined) return h;
  return { past: h.past.slice(0, -1), present: previous, future: [h.present, ...h.future], tag: "", at: 0 };
}

export function redo<T>(h: History<T>): History<T> {
  const [next, ...future] = h.future;
  if (next === undefined) return h;
  return { past: [...h.past, h.present], present: next, future, tag: "", at: 0 };
}
