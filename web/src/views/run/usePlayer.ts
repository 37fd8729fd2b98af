import { useEffect, useLayoutEffect, useRef, useState } from "react";
import type { Step } from "../../api/client";
import { useStep } from "../../work/StepContext";

export const SPEEDS = [
  { factor: 1, title: "real time" },
  { factor: 0.1, title: "10 times slower" },
  { factor: 0.01, title: "100 times slower" },
  { factor: 0.001, title: "1000 times slower" },
];

/** In slow motion the host's waits are cut to this, in milliseconds on the maker's clock. */
const LONGEST_WAIT_MS = 500;

export interface Player {
  /** Last step done; -1 at power-up. */
  at: number;
  playing: boolean;
  loop: boolean;
  speed: number;
  setLoop: (on: boolean) => void;
  setSpeed: (factor: number) => void;
  goTo: (step: number) => void;
  /** Steps on, or back with a negative number. */
  move: (by: number) => void;
  toggle: () => void;
}

/** Plays a program's steps in scaled time, stopping at breakpoints. */
export function usePlayer(steps: Step[], stops: ReadonlySet<number>): Player {
  const { step, choose } = useStep();
  const [playing, setPlaying] = useState(false);
  const [loop, setLoop] = useState(false);
  const [speed, setSpeed] = useState(0.01);
  const last = steps.length - 1;
  const at = Math.min(step ?? last, last);
  const position = useRef(at);
  useLayoutEffect(() => {
    position.current = at; // before it is seen: a key goes on from what is seen
  }, [at]);

  useEffect(() => {
    if (!playing) return;
    let frame = 0;
    let before = performance.now();
    let clock = timeOf(steps, position.current);
    const tick = (now: number) => {
      clock += (now - before) * 1000 * speed;
      before = now;
      let next = position.current;
      const due = timeOf(steps, next + 1);
      if (speed < 1) clock = Math.max(clock, due - LONGEST_WAIT_MS * 1000 * speed);
      while (next < last && timeOf(steps, next + 1) <= clock) {
        next++;
        if (stops.has(next)) break;
      }
      if (next !== position.current) {
        position.current = next;
        choose(next);
      }
      if (stops.has(next) && timeOf(steps, next) <= clock && next !== from) {
        setPlaying(false);
        return;
      }
      if (next >= last) {
        if (!loop) {
          setPlaying(false);
          return;
        }
        position.current = -1;
        choose(-1);
        clock = 0;
      }
      frame = requestAnimationFrame(tick);
    };
    const from = position.current;
    frame = requestAnimationFrame(tick);
    return () => cancelAnimationFrame(frame);
  }, [playing, loop, speed, steps, stops, last, choose]);

  const goTo = (to: number) => {
    setPlaying(false);
    position.current = Math.min(Math.max(to, -1), last);
    choose(position.current);
  };

  return {
    at,
    playing,
    loop,
    speed,
    setLoop,
    setSpeed,
    goTo,
    move: (by) => goTo(position.current + by),
    toggle: () => {
      if (!playing && at >= last) {
        position.current = -1;
        choose(-1);
      }
      setPlaying(!playing);
    },
  };
}

/** When a step's words are through, in µs since power-up. */
function timeOf(steps: Step[], i: number): number {
  const s = steps[i];
  return s ? s.startUs + s.wireUs : 0;
}
