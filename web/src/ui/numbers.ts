/** Reads a number as people type it, with a decimal comma or point; NaN where it is none. */
export const decimal = (text: string): number => Number(text.replace(",", "."));

/** A byte as 4D. */
export const digits = (n: number): string => n.toString(16).toUpperCase().padStart(2, "0");

/** A byte as 0x4D. */
export const hex = (n: number): string => `0x${digits(n)}`;

/** A byte as 0100 1101. */
export const binary = (n: number): string =>
  n
    .toString(2)
    .padStart(8, "0")
    .replace(/(....)$/, " $1");

/** A time given in microseconds, with a unit that suits it. */
export function time(us: number): string {
  if (us >= 1e6) return `${fixed(us / 1e6)} s`;
  if (us >= 1000) return `${fixed(us / 1000)} ms`;
  return `${fixed(us)} µs`;
}

const significant = (n: number) => new Intl.NumberFormat("en", { maximumSignificantDigits: n, useGrouping: false });
const three = significant(3);
const four = significant(4);
const fixed = (n: number) => (n < 100 ? three : four).format(n);

/** A current in milliamperes, to the tenth where it is small. */
export const milliamperes = (mA: number): string => (mA < 10 ? mA.toFixed(1) : String(Math.round(mA)));

/** Milliseconds since power-up, for columns. */
export const clock = (us: number): string => (us / 1000).toFixed(3);

const day = new Intl.DateTimeFormat(undefined, { dateStyle: "medium", timeStyle: "short" });

/** A moment as people write it, to the minute. */
export const moment = (at: string | number): string => day.format(new Date(at));

/** A number of bytes in a unit that people read. */
export function size(bytes: number): string {
  if (bytes < 1000) return `${bytes} B`;
  if (bytes < 1e6) return `${fixed(bytes / 1e3)} kB`;
  return `${fixed(bytes / 1e6)} MB`;
}
