import { time } from "../../ui/numbers";

/** A time of a recording, ns since it began, as far as digits tell something. */
export function stamp(ns: number): string {
  if (ns >= 1e9) return `${(ns / 1e9).toFixed(6)} s`;
  if (ns >= 1e6) return `${(ns / 1e6).toFixed(4)} ms`;
  if (ns >= 1e3) return `${(ns / 1e3).toFixed(3)} µs`;
  return `${Math.round(ns)} ns`;
}

/** How long something takes, ns. */
export const lasting = (ns: number): string => (Math.abs(ns) < 1000 ? `${Math.round(ns)} ns` : time(ns / 1000));

/** How often a second something comes that takes so many ns. */
export function often(ns: number): string {
  const hz = 1e9 / ns;
  if (!Number.isFinite(hz)) return "–";
  const [value, unit] = hz >= 1e6 ? [hz / 1e6, "MHz"] : hz >= 1e3 ? [hz / 1e3, "kHz"] : [hz, "Hz"];
  return `${Number(value.toPrecision(4))} ${unit}`;
}

/** Round times within a window: steps of 1, 2 or 5 times a power of ten; each with its digits as far as the step needs them. */
export function ticks(from: number, to: number, most: number): { at: number; says: string }[] {
  const rough = Math.max((to - from) / most, 1);
  const power = 10 ** Math.floor(Math.log10(rough));
  const step = power * ([1, 2, 5, 10].find((n) => n * power >= rough) ?? 10);
  const [unit, name] = to >= 1e9 ? [1e9, "s"] : to >= 1e6 ? [1e6, "ms"] : to >= 1e3 ? [1e3, "µs"] : [1, "ns"];
  const digits = Math.max(0, Math.ceil(Math.log10(unit / step) - 1e-9));
  const out: { at: number; says: string }[] = [];
  for (let t = Math.ceil(from / step) * step; t <= to; t += step)
    out.push({ at: t, says: `${(t / unit).toFixed(digits)} ${name}` });
  return out;
}
