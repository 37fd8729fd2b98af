/** Reads a number that was typed; returns what is wrong with it. */
export const number =
  (put: (v: number) => void) =>
  async (text: string): Promise<string | undefined> => {
    const v = Number(text.trim().replace(",", ".") || "0");
    if (!Number.isFinite(v)) return Promise.resolve(`“${text}” is no number; such as 2.5`);
    put(v);
    return Promise.resolve(undefined);
  };

/** Reads whole milliseconds within limits. */
export const milliseconds = (put: (ms: number) => void, least: number, most: number) => async (text: string) => {
  const v = Math.round(Number(text.trim().replace(",", ".")));
  if (!(v >= least && v <= most)) return Promise.resolve(`“${text}”: ${least} to ${most} ms`);
  put(v);
  return Promise.resolve(undefined);
};

/** Reads a time in seconds, and gives milliseconds. */
export const seconds = (put: (ms: number) => void) => async (text: string) => {
  const v = Math.round(Number(text.trim().replace(",", ".")) * 1000);
  if (!(v >= 1 && v <= 86_400_000)) return Promise.resolve(`“${text}”: 0.001 s to a day`);
  put(v);
  return Promise.resolve(undefined);
};

/** Reads a character; none stands for the usual one. */
export const character = (put: (character: string | undefined) => void) => async (text: string) => {
  if ([...text].length > 1) return Promise.resolve(`“${text}”: one character`);
  put(text || undefined);
  return Promise.resolve(undefined);
};
