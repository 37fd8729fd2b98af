import { Field } from "./Field";
import { decimal } from "./numbers";

interface Props {
  /** With the unit behind a comma, such as "after, s". */
  label: string;
  /** Undefined: nothing is said, which the placeholder shows what of. */
  value: number | undefined;
  onChange: (value: number) => void;
  /** What an empty field means; without it an empty field is 0. */
  onEmpty?: () => void;
  /** The least and the most that it may be. */
  from?: number;
  to?: number;
  /** What an arrow key adds; with Shift ten of them. */
  step?: number;
  /** Digits behind the decimal point are rounded away. */
  whole?: boolean;
  placeholder?: string;
  className?: string;
}

/** Reads what was typed, with a minus as people write it too. */
const read = (text: string): number => decimal(text.replace("−", "-"));

/** What a number must be between, in words. */
function between(from: number, to: number, whole: boolean): string {
  const kind = whole ? "a whole number" : "a number";
  if (from > -Infinity && to < Infinity) return `${kind} from ${from} to ${to}`;
  if (from > -Infinity) return `${kind} from ${from} on`;
  if (to < Infinity) return `${kind} up to ${to}`;
  return `${kind}, such as ${whole ? 25 : 2.5}`;
}

/**
 * A number, taken over with Enter or on leaving; arrow keys step it. What is no number, or out of its limits,
 * stays with the reason below it.
 */
export function NumberField(p: Props) {
  const { value, onChange, onEmpty, from = -Infinity, to = Infinity, step = 1, whole = false } = p;
  const fits = (v: number) => v >= from && v <= to;
  const take = (text: string): string | undefined => {
    if (text.trim() === "" && onEmpty) {
      onEmpty();
      return undefined;
    }
    const v = whole ? Math.round(read(text)) : read(text);
    if (!Number.isFinite(v) || !fits(v)) return `“${text}”; expected ${between(from, to, whole)}`;
    onChange(v);
    return undefined;
  };
  return (
    <Field
      label={p.label}
      mono
      value={value === undefined ? "" : String(value)}
      placeholder={p.placeholder}
      className={p.className}
      onChange={(text) => Promise.resolve(take(text))}
      onStep={(text, steps) => {
        const now = read(text === "" ? "0" : text);
        if (!Number.isFinite(now)) return;
        const next = Math.min(Math.max(Number((now + steps * step).toFixed(6)), from), to);
        if (next !== now || text === "") onChange(next);
      }}
    />
  );
}
