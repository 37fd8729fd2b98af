import { setting } from "./setting";

/** From what rows and columns are counted: 1, as people do, or 0, as most programs do. */
export type Base = 0 | 1;

const counted = setting<Base>("slatebell-count-from", (kept) => (kept === "0" ? 0 : 1));

/** From what places are counted now, where nothing is drawn anew when it changes. */
export const base = counted.get;
export const countFrom = counted.set;

/** From what places are counted now. */
export const useBase = counted.useValue;

/** Rows and columns that a text names, 0-based, and where in its characters they stand. */
export interface Place {
  at: number;
  len: number;
  row?: number;
  col?: number;
  last?: number;
}

/** A place in words: "row 2, columns 3 to 8". */
export function placeName(place: Pick<Place, "row" | "col" | "last">, base: Base): string {
  const parts = [];
  if (place.row !== undefined) parts.push(`row ${place.row + base}`);
  if (place.col !== undefined)
    parts.push(
      place.last !== undefined ? `columns ${place.col + base} to ${place.last + base}` : `column ${place.col + base}`,
    );
  return parts.join(", ");
}

/** A text of the program with its places as they are counted here. */
export function placed(text: string, places: Place[] | undefined, base: Base): string {
  if (!places?.length || base === 1) return text;
  const chars = Array.from(text);
  let out = "";
  let done = 0;
  for (const p of places) {
    const name = placeName(p, base);
    const capital = /^\p{Lu}/u.test(chars[p.at] ?? "");
    out += chars.slice(done, p.at).join("") + (capital ? name.charAt(0).toUpperCase() + name.slice(1) : name);
    done = p.at + p.len;
  }
  return out + chars.slice(done).join("");
}
