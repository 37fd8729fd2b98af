import { useState, type KeyboardEvent } from "react";
import css from "./LivePanel.module.css";

/** What a key that is no character does, as it is said by hand. */
const doings: Record<string, string> = {
  ArrowLeft: "cursor left",
  ArrowRight: "cursor right",
  Home: "home",
  Delete: "clear",
  Backspace: "backspace",
};

/**
 * A place where each key goes straight to the controller, as its cursor stands: at the end of a line it goes on where its
 * memory does, and not where one would look for it.
 */
export function Straight({ onKey }: { onKey: (text: string) => void }) {
  const [here, setHere] = useState(false);
  const press = (e: KeyboardEvent) => {
    if (e.ctrlKey || e.metaKey || e.altKey) return;
    if (e.key === "Escape") {
      (e.currentTarget as HTMLElement).blur();
      e.stopPropagation();
      return;
    }
    const text = doings[e.key] ?? (e.key.length === 1 ? `'${e.key}'` : undefined);
    if (text === undefined) return;
    e.preventDefault();
    e.stopPropagation();
    onKey(text);
  };
  return (
    <div
      className={css.straight}
      role="application"
      tabIndex={0}
      aria-label="Keys go straight to the controller"
      onFocus={() => setHere(true)}
      onBlur={() => setHere(false)}
      onKeyDown={press}
    >
      {here
        ? "Keys go straight to it: characters, ← → Home, Backspace; Delete clears, Esc ends."
        : "Type straight on the glass"}
    </div>
  );
}
