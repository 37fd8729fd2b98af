/** A time given in microseconds, in milliseconds. */
export const ms = (us: number): string => (us / 1000).toFixed(us < 100_000 ? 1 : 0);

/** How often a second. */
export const rate = (perSecond: number): string =>
  perSecond >= 10 ? String(Math.floor(perSecond)) : perSecond.toFixed(1);
