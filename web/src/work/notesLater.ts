import { ApiError, client, unwrap } from "../api/client";
import { addEntry, type Entry } from "../api/faults";

/** An entry of a bench's log that could not be sent yet. */
export interface KeptNote {
  entry: Entry;
}

const key = (bench: number) => `slatebell-notes-${bench}`;

/** How often it is tried again, in milliseconds. */
const AGAIN_MS = 3000;

/** The notes of a bench that wait in this browser, as the text in which they are kept. */
export const notesText = (bench: number): string => localStorage.getItem(key(bench)) ?? "[]";

export function notesIn(text: string): KeptNote[] {
  try {
    return JSON.parse(text) as KeptNote[];
  } catch {
    return []; // half a text is none
  }
}

function put(bench: number, list: KeptNote[]): void {
  if (list.length === 0) localStorage.removeItem(key(bench));
  else localStorage.setItem(key(bench), JSON.stringify(list));
  window.dispatchEvent(new StorageEvent("storage", { key: key(bench) }));
}

/** Keeps a note until the program answers; it throws where the browser has no room for it. */
export function keepNote(bench: number, entry: Entry): void {
  put(bench, [...notesIn(notesText(bench)), { entry }]);
}

/** Whether an entry stands in the log already: it was stored, and the answer was lost. */
const arrived = (log: Entry[], e: Entry) =>
  log.some((o) => o.at === e.at && o.text === e.text && o.module === e.module && o.kind === e.kind);

/** Sends what waits, the first first; returns how many were sent. What the program refuses is not sent again and again. */
async function sendKept(bench: number): Promise<number> {
  let sent = 0;
  for (let list = notesIn(notesText(bench)); list[0]; list = notesIn(notesText(bench))) {
    const { entry } = list[0];
    const log = unwrap(await client.GET("/api/benches/{id}/log", { params: { path: { id: bench } } }));
    try {
      if (!arrived(log.entries, entry)) await addEntry(bench, entry);
    } catch (e) {
      if (!(e instanceof ApiError) || e.status >= 500) throw e;
    }
    put(bench, notesIn(notesText(bench)).slice(1));
    sent++;
  }
  return sent;
}

/**
 * Sends what waits, again and again until the program answers.
 * @param onSent is told when something was sent
 * @returns what ends it
 */
export function sendLater(bench: number, onSent: () => void): () => void {
  let busy = false;
  const attempt = async () => {
    if (busy || notesText(bench) === "[]") return;
    busy = true;
    try {
      if ((await sendKept(bench)) > 0) onSent();
    } catch {
      // It is tried again.
    } finally {
      busy = false;
    }
  };
  const now = () => void attempt();
  const timer = window.setInterval(now, AGAIN_MS);
  window.addEventListener("online", now);
  now();
  return () => {
    window.clearInterval(timer);
    window.removeEventListener("online", now);
  };
}
