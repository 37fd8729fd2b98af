const known = new WeakMap<object, string>();

/** From so many characters on a part's text is kept: below, it is made as fast as it is found. */
const WORTH = 64;

/**
 * The text by which a query's key is told from others: JSON with sorted names, as TanStack Query's own, but a part that is the same object
 * as before is not written again. Keys hold whole benches here, of which a keystroke changes a few objects; none is changed in place.
 */
export function hashOf(value: unknown): string {
  if (typeof value !== "object" || value === null) return JSON.stringify(value) ?? "null";
  const before = known.get(value);
  if (before !== undefined) return before;
  const text = Array.isArray(value)
    ? `[${value.map(hashOf).join()}]`
    : `{${Object.entries(value)
        .filter(([, v]) => v !== undefined)
        .sort(([a], [b]) => (a < b ? -1 : 1))
        .map(([name, v]) => `${JSON.stringify(name)}:${hashOf(v)}`)
        .join()}}`;
  if (text.length >= WORTH) known.set(value, text);
  return text;
}
