import { Bare } from "../../ui/Bare";
import css from "./Pads.module.css";

interface Props {
  /** Whose pads they are. */
  name: string;
  /** Of A0, A1 and A2. */
  closed: boolean[];
  onFlip: (pad: number) => void;
}

/** The three solder pads of a backpack: two halves each, bridged or not. */
export function Pads({ name, closed, onFlip }: Props) {
  return (
    <div className={css.pads} role="group" aria-label={`Address pads of ${name}`}>
      {closed.map((is, k) => (
        <Bare
          key={k}
          className={css.pad}
          aria-pressed={is}
          title={
            is ? `A${k} is bridged and counts 0: click to open it` : `A${k} is open and counts 1: click to bridge it`
          }
          onClick={() => onFlip(k)}
        >
          <svg width="34" height="26" viewBox="0 0 34 26" aria-hidden="true">
            <path className={css.half} d="M15 3v20H9a6 6 0 0 1-6-6V9a6 6 0 0 1 6-6z" />
            <path className={css.half} d="M19 3v20h6a6 6 0 0 0 6-6V9a6 6 0 0 0-6-6z" />
            {is && <ellipse className={css.blob} cx="17" cy="13" rx="11" ry="8" />}
          </svg>
          <span>
            A{k}
            <span className="unseen">{is ? " bridged" : " open"}</span>
          </span>
        </Bare>
      ))}
    </div>
  );
}
