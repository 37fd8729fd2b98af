import type { End, Input, Scene } from "../api/plays";

/** A time in milliseconds for people. */
export function time(ms: number): string {
  if (ms < 1000) return `${Math.round(ms)} ms`;
  if (ms < 60_000) return `${Number((ms / 1000).toFixed(2))} s`;
  const s = Math.round(ms / 1000);
  return s % 60 === 0 ? `${s / 60} min` : `${Math.floor(s / 60)} min ${s % 60} s`;
}

/** Minutes, seconds and tenths of a clock that counts up. */
export function clock(ms: number): string {
  const tenths = Math.floor(ms / 100);
  return `${Math.floor(tenths / 600)}:${String(Math.floor(tenths / 10) % 60).padStart(2, "0")}.${tenths % 10}`;
}

export const kindTitles: Record<Input["kind"], string> = {
  button: "Button",
  timer: "Timer",
  counter: "Counter",
  serial: "Serial line",
  signal: "Signal",
};

/** What of an input of a kind can end a scene, the usual first. */
export const happenings: Record<Input["kind"], { on: NonNullable<End["on"]>; title: string }[]> = {
  button: [
    { on: "press", title: "is pressed" },
    { on: "release", title: "is let go" },
    { on: "long", title: "is held" },
  ],
  timer: [{ on: "tick", title: "ticks" }],
  counter: [{ on: "step", title: "steps" }],
  serial: [{ on: "line", title: "ends a line" }],
  signal: [
    { on: "above", title: "is above" },
    { on: "below", title: "is below" },
  ],
};

export const sceneTitle = (s: Scene | undefined): string => s?.name ?? s?.id ?? "no scene";

export const inputTitle = (i: Input | undefined): string => i?.name ?? i?.id ?? "no input";

/** What ends a scene, in few words. */
export function endTitle(e: End, inputs: Input[]): string {
  if (e.on === "accept" || e.on === "cancel") return e.on === "accept" ? "accepted" : "cancelled";
  if (!e.input) return time(e.afterMs ?? 0);
  const input = inputs.find((i) => i.id === e.input);
  const name = inputTitle(input);
  if (!input) return name;
  const on = e.on ?? happenings[input.kind][0]?.on;
  if (on === "above") return `${name} > ${e.level ?? 0}`;
  if (on === "below") return `${name} < ${e.level ?? 0}`;
  if (on === "long") return `${name} held`;
  if (on === "release") return `${name} let go`;
  return name;
}
