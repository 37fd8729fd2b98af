import { useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { Bare } from "../../ui/Bare";
import css from "./PinEdges.module.css";

type Pin = Schemas["InputPin"];

interface Props {
  pins: Pin[];
  /** Label of the pin that is chosen; empty for none. */
  chosen: string;
  /** Chooses a pin; undefined for none. */
  onPick: (label: string | undefined) => void;
}

/** What is said of a pin: what it can do, what it serves, and why it will not do. */
function facts(p: Pin): string {
  const parts = [p.not ? `no: ${p.not}` : (p.can ?? "a level")];
  if (p.taken) parts.push(`taken by ${p.taken}`);
  if (p.careful) parts.push(p.careful);
  return parts.join("; ");
}

/** The host's two edges as rows of flags, of which one is chosen: by pointer, or by arrows and Enter. */
export function PinEdges({ pins, chosen, onPick }: Props) {
  const list = useRef<HTMLDivElement>(null);
  const [held, setHeld] = useState<string>();
  const current = pins.find((p) => p.label === (held ?? chosen)) ?? pins[0];
  const go = (label: string | undefined) => {
    if (!label) return;
    setHeld(label);
    list.current?.querySelector<HTMLElement>(`[data-pin="${CSS.escape(label)}"]`)?.focus();
  };
  const beside = (by: number) => {
    const edge = pins.filter((p) => p.edge === current?.edge);
    const at = edge.findIndex((p) => p.label === current?.label);
    go(edge[Math.min(Math.max(at + by, 0), edge.length - 1)]?.label);
  };
  const across = (to: number) => {
    const other = pins.filter((p) => p.edge === to);
    const far = (p: Pin) => Math.abs(p.col - (current?.col ?? 0));
    go(other.reduce<Pin | undefined>((best, p) => (!best || far(p) < far(best) ? p : best), undefined)?.label);
  };
  const keys: Record<string, () => void> = {
    ArrowLeft: () => beside(-1),
    ArrowRight: () => beside(1),
    ArrowUp: () => across(0),
    ArrowDown: () => across(1),
    Home: () => beside(-1000),
    End: () => beside(1000),
    Delete: () => onPick(undefined),
    Backspace: () => onPick(undefined),
  };
  return (
    <div className={css.board}>
      <div
        ref={list}
        className={css.edges}
        role="listbox"
        aria-label="Pins of the host"
        onKeyDown={(e) => {
          const key = keys[e.key];
          if (!key) return;
          e.preventDefault();
          key();
        }}
      >
        {[0, 1].map((edge) => (
          <div key={edge} className={css.edge} data-edge={edge} role="presentation">
            {pins
              .filter((p) => p.edge === edge)
              .map((p) => (
                <Bare
                  key={p.label}
                  role="option"
                  className={css.pin}
                  data-pin={p.label}
                  data-taken={p.taken ? true : undefined}
                  data-careful={p.careful ? true : undefined}
                  aria-selected={p.label === chosen}
                  aria-disabled={p.not ? true : undefined}
                  aria-label={`${p.label}${p.place ? `, pin ${p.place}` : ""}: ${facts(p)}`}
                  title={`${p.label}: ${facts(p)}`}
                  tabIndex={p.label === current?.label ? 0 : -1}
                  onFocus={() => setHeld(p.label)}
                  onPointerEnter={() => setHeld(p.label)}
                  onClick={() => !p.not && onPick(p.label === chosen ? undefined : p.label)}
                >
                  <span>{p.label}</span>
                  {p.place ? <small>{p.place}</small> : null}
                </Bare>
              ))}
          </div>
        ))}
      </div>
      {current && (
        <p className={css.facts}>
          <b>{current.label}</b> {facts(current)}
        </p>
      )}
    </div>
  );
}
