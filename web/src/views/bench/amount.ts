/** Reads an amount that was typed, none or 0 to the most that it may be; says what is wrong with it. */
export const amount = (most: number, put: (v: number | undefined) => void) => (text: string) => {
  const v = text.trim() === "" ? undefined : Number(text.trim().replace(",", "."));
  if (v !== undefined && !(v >= 0 && v <= most)) return Promise.resolve(`${text}; expected 0–${most}`);
  put(v);
  return Promise.resolve(undefined);
};
