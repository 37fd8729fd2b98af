import { useBase } from "../../ui/places";
import { chars, readable } from "../../work/typing/rows";
import css from "./TypingGlass.module.css";

interface Props {
  row: number;
  text: string;
  /** Where the caret stands in it; -1 where it does not. */
  at: number;
  onPick: (i: number) => void;
}

/** What of a row is left over, below the glass; the caret may stand in it. */
export function Left({ row, text, at, onPick }: Props) {
  const cells = chars(text);
  const base = useBase();
  return (
    <div className={css.left} title={text ? `Not shown: ${text}` : undefined}>
      <b>Row {row + base} goes on: </b>
      {cells.map((c, i) => (
        <span key={i} data-caret={i === at || undefined} onPointerDown={() => onPick(i)}>
          {readable(c)}
        </span>
      ))}
      {at >= cells.length && <span data-caret>&nbsp;</span>}
    </div>
  );
}
