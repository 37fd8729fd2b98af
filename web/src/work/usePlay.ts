import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { ApiError, type Bench, type Finding } from "../api/client";
import { beginPlay, playOn, type PlayedPart, type PlayEvent, type PlayScene } from "../api/plays";
import { useLatest } from "../ui/useLatest";
import { reason } from "./reason";

/** How often the host is asked while it plays, in milliseconds. */
const TICK_MS = 16;

/**
 * So much is played ahead of the maker's clock, in milliseconds: what the glass shows is drawn at its own time then, not
 * when an answer happens to arrive.
 */
const LEAD_MS = 60;

/** How much a step may play through until something changes, in milliseconds. */
const STEP_MS = 60_000;

/** How far ahead scenes are told, in milliseconds. */
const AHEAD_MS = 60_000;

/** How long a button stays down at least, in milliseconds of the show beyond what it takes to count. */
const LEAST_PRESS_MS = 20;

/** A show is played no longer than this, in milliseconds. */
export const LONGEST_MS = 3_600_000;

/** A change that was sent: when, and for how long the host and the wire were busy with it. */
export interface Sent {
  at: number;
  busy: number;
  wire: number;
  waited: number;
  bytes: number;
}

/** What is known of a module that is played. */
export interface Part {
  module: string;
  /** Where its show stands, and what its glass shows. */
  state: PlayedPart["state"];
  glass: PlayedPart["frames"][number]["glass"] | undefined;
  scenes: PlayScene[];
  forecast: PlayScene[];
  sent: Sent[];
  dropped: number;
  lost: number;
  findings: Finding[];
  /** What a hand does at the keys of its edits. */
  keys: PlayedPart["keys"];
}

export interface Play {
  now: number;
  playing: boolean;
  speed: number;
  parts: Part[];
  events: PlayEvent[];
  error: string | undefined;
  setSpeed: (factor: number) => void;
  toggle: () => void;
  /** Plays on to the next change. */
  step: () => void;
  /** Begins anew; with events they happen again at their times. */
  restart: (events?: PlayEvent[]) => void;
  /**
   * Lets something happen to an input now. A button that is let go at once stays down until it counts.
   * @param countsAfterMs of a button: how long its level must hold
   */
  happen: (e: Omit<PlayEvent, "atMs">, countsAfterMs?: number) => void;
}

/** Changes that are kept for the time line. */
const MOST_SENT = 4000;

/**
 * What is known after an answer.
 * @param due up to when frames are drawn at once; those behind follow at their times
 */
function merged(before: Part | undefined, p: PlayedPart, due: number): Part {
  const last = p.frames.findLast((f) => f.doneMs <= due);
  const sent = p.frames.map((f) => ({
    at: f.wantedMs + (f.waitedMs ?? 0),
    busy: f.doneMs - f.wantedMs - (f.waitedMs ?? 0),
    wire: f.wireMs,
    waited: f.waitedMs ?? 0,
    bytes: f.bytes,
  }));
  return {
    module: p.module,
    state: p.state,
    glass: last?.glass ?? before?.glass,
    scenes: [...(before?.scenes ?? []), ...p.scenes],
    forecast: p.forecast ?? before?.forecast ?? [],
    keys: p.keys,
    sent: [...(before?.sent ?? []), ...sent].slice(-MOST_SENT),
    dropped: (before?.dropped ?? 0) + p.dropped,
    lost: (before?.lost ?? 0) + p.lost,
    findings: p.findings ?? before?.findings ?? [],
  };
}

/** What happened and was not sent yet. */
interface Waiting {
  event: Omit<PlayEvent, "atMs">;
  countsAfterMs: number | undefined;
}

/** An event with its time; a button is not let go before it counts as pressed. */
function timed(
  { input, ...e }: Waiting["event"],
  counts: number | undefined,
  now: number,
  pressed: Map<string, number>,
): PlayEvent {
  if (counts === undefined) return { ...e, input, atMs: now };
  if (e.value === 1) pressed.set(input, now + counts + LEAST_PRESS_MS);
  return { ...e, input, atMs: e.value === 1 ? now : Math.max(now, pressed.get(input) ?? 0) };
}

interface Kept {
  id: string | undefined;
  now: number;
  parts: Part[];
  events: PlayEvent[];
  error: string | undefined;
}

/**
 * Plays the shows of modules. The server plays them; the page says how much time has passed and what has happened, and
 * draws what the glass shows then.
 */
export function usePlay(bench: Bench, modules: number[]): Play {
  const [kept, setKept] = useState<Kept>({ id: undefined, now: 0, parts: [], events: [], error: undefined });
  const [playing, setPlaying] = useState(false);
  const [speed, setSpeed] = useState(1);
  const state = useRef(kept);
  const waiting = useRef<Waiting[]>([]);
  const pressed = useRef(new Map<string, number>()); // from when on a button may be let go
  const busy = useRef<Promise<unknown>>(Promise.resolve());
  const put = useCallback((next: Partial<Kept>) => {
    state.current = { ...state.current, ...next };
    setKept(state.current);
  }, []);

  const begin = useCallback(
    async (of: Bench, at: number[], events: PlayEvent[], until: number) => {
      try {
        const played = await beginPlay(of, at, events, until);
        put({
          id: played.id,
          now: played.nowMs,
          parts: played.parts.map((p) => merged(undefined, p, Infinity)),
          events,
          error: undefined,
        });
      } catch (e) {
        put({ id: undefined, error: reason(e) });
        setPlaying(false);
      }
    },
    [put],
  );
  /** Lets one request follow another. */
  const queue = useCallback((work: () => Promise<unknown>) => {
    busy.current = busy.current.then(work, work);
    return busy.current;
  }, []);

  const asked = useLatest({ bench, modules });
  const key = modules.join();
  useEffect(() => {
    void queue(() => begin(bench, asked.current.modules, state.current.events, state.current.now));
  }, [bench, key, asked, begin, queue]);

  const go = useCallback(
    async (until: number, step: boolean, due = Infinity) => {
      const { id, now, events } = state.current;
      if (id === undefined) return undefined;
      const taken = waiting.current;
      waiting.current = [];
      const fresh = taken.map(({ event, countsAfterMs }) => timed(event, countsAfterMs, now, pressed.current));
      const forecastMs = fresh.length > 0 || step ? Math.min(Math.round(until) + AHEAD_MS, LONGEST_MS) : undefined;
      try {
        const played = await playOn(id, {
          events: fresh,
          untilMs: Math.min(Math.round(until), LONGEST_MS),
          step,
          forecastMs,
        });
        put({
          now: played.nowMs,
          parts: played.parts.map((p, i) => merged(state.current.parts[i], p, due)),
          events: fresh.length > 0 ? [...events, ...fresh].sort((a, b) => a.atMs - b.atMs) : events,
          error: undefined,
        });
        return played;
      } catch (e) {
        waiting.current = [...taken, ...waiting.current];
        if (e instanceof ApiError && e.status === 404) {
          await begin(asked.current.bench, asked.current.modules, events, now);
          return undefined;
        }
        put({ error: reason(e) });
        setPlaying(false);
        return undefined;
      }
    },
    [asked, begin, put],
  );

  useEffect(() => {
    if (!playing) return;
    let stopped = false;
    let before = performance.now();
    let clock = state.current.now;
    /** Draws a glass at its time. */
    const later = (i: number, glass: Part["glass"], ms: number) => {
      const { id } = state.current;
      window.setTimeout(() => {
        if (state.current.id === id) put({ parts: state.current.parts.map((p, k) => (k === i ? { ...p, glass } : p)) });
      }, ms);
    };
    const pass = async () => {
      const lead = LEAD_MS * speed;
      const played = stopped ? undefined : await go(clock + lead, false, clock);
      const late = (performance.now() - before) * speed; // while the answer was under way
      for (const [i, p] of (played?.parts ?? []).entries())
        for (const f of p.frames)
          if (f.doneMs > clock) later(i, f.glass, Math.max((f.doneMs - clock - late) / speed, 0));
    };
    const tick = async () => {
      while (!stopped) {
        const now = performance.now();
        clock += (now - before) * speed;
        before = now;
        await queue(pass);
        if (state.current.now >= LONGEST_MS) setPlaying(false);
        await new Promise((done) => window.setTimeout(done, Math.max(TICK_MS - (performance.now() - now), 4)));
      }
    };
    void tick();
    return () => {
      stopped = true;
    };
  }, [playing, speed, go, put, queue]);

  const happen = useCallback(
    (event: Omit<PlayEvent, "atMs">, countsAfterMs?: number) => {
      waiting.current.push({ event, countsAfterMs });
      if (!playing) void queue(() => go(state.current.now, false));
    },
    [playing, go, queue],
  );
  const restart = useCallback(
    (events: PlayEvent[] = []) => {
      waiting.current = [];
      setPlaying(false);
      put({ events, now: 0 });
      void queue(() => begin(asked.current.bench, asked.current.modules, events, 0));
    },
    [asked, begin, put, queue],
  );
  const step = useCallback(() => {
    setPlaying(false);
    void queue(() => go(state.current.now + STEP_MS, true));
  }, [go, queue]);
  const toggle = useCallback(() => setPlaying((p) => !p), []);

  return useMemo(
    () => ({
      now: kept.now,
      parts: kept.parts,
      events: kept.events,
      error: kept.error,
      playing,
      speed,
      setSpeed,
      toggle,
      step,
      restart,
      happen,
    }),
    [kept, playing, speed, toggle, step, restart, happen],
  );
}
