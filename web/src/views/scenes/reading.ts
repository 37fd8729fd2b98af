/** Reads a character; none stands for the usual one. */
export const character = (put: (character: string | undefined) => void) => async (text: string) => {
  if ([...text].length > 1) return Promise.resolve(`“${text}”: one character`);
  put(text || undefined);
  return Promise.resolve(undefined);
};
