import type { Bench } from "../api/client";

/** Changes that could not be stored, kept in the browser until they are. */
export interface Kept {
  key: string;
  /** What they were made against. */
  revision: number;
  /** When, in milliseconds since 1970. */
  at: number;
  bench: Bench;
}

/** Names this page among others of the same bench. */
const page = Array.from(crypto.getRandomValues(new Uint32Array(4)), (n) => n.toString(36)).join("");

const prefix = (id: number) => `slatebell-kept-${id}-`;

/** Keeps a bench; reports whether the browser had room for it. */
export function keep(id: number, revision: number, bench: Bench): boolean {
  try {
    localStorage.setItem(prefix(id) + page, JSON.stringify({ revision, at: Date.now(), bench }));
    return true;
  } catch {
    return false;
  }
}

/** Forgets what this page kept, or what another left under a key. */
export const forget = (id: number, key = prefix(id) + page): void => localStorage.removeItem(key);

/** What pages of a bench left behind, the last first. */
export function leftBehind(id: number): Kept[] {
  const out: Kept[] = [];
  for (const key of Object.keys(localStorage)) {
    if (!key.startsWith(prefix(id)) || key.endsWith(page)) continue;
    try {
      out.push({ key, ...(JSON.parse(localStorage.getItem(key) ?? "") as Omit<Kept, "key">) });
    } catch {
      localStorage.removeItem(key); // half a text is none
    }
  }
  return out.sort((a, b) => b.at - a.at);
}
