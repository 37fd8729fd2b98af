import { Cells } from "../../parts/dots/Cells";
import { charOfKey, chars, codes, keyOf, readable } from "../../work/typing/rows";
import { Bare } from "../../ui/Bare";
import css from "./Sheet.module.css";

/** A drawing of the library. */
export interface Drawing {
  key: number;
  name: string;
  rows: readonly number[];
}

interface Props {
  label: string;
  library: Drawing[];
  onPick: (key: number) => void;
}

/** The drawings of the library as they look, one of which is picked. */
export function Drawings({ label, library, onPick }: Props) {
  return (
    <div className={css.drawings} role="group" aria-label={label}>
      <small>{label}</small>
      <div>
        {library.map((d) => (
          <Bare key={d.key} title={d.name} aria-label={d.name} onClick={() => onPick(d.key)}>
            <Cells cells={[d.rows]} cols={1} dot={3} />
          </Bare>
        ))}
      </div>
    </div>
  );
}

/** A text as it can be typed: a code as \x07, a drawing of the library by its name in braces. */
export const spelled = (text: string, library: Drawing[]): string =>
  chars(text)
    .map((c) => {
      const key = keyOf(c);
      return key === undefined ? readable(c) : `{${library.find((d) => d.key === key)?.name ?? key}}`;
    })
    .join("");

/** The text that was typed so. */
export const unspelled = (typed: string, library: Drawing[]): string =>
  codes(typed).replace(/\{([^{}]+)\}/g, (all, name: string) => {
    const drawing = library.find((d) => d.name === name || String(d.key) === name);
    return drawing ? charOfKey(drawing.key) : all;
  });
