import type { KeyboardEvent, PointerEvent } from "react";
import type { WireFacts } from "../../api/client";
import { pathOf } from "./geometry";
import css from "./Drawing.module.css";

interface Props {
  wires: WireFacts[];
  picked: number | undefined;
  /** The net that is looked at; its wires stand out. */
  net: string | undefined;
  onPick: (number: number) => void;
  onEndKey: (wire: WireFacts, end: "from" | "to", e: KeyboardEvent) => void;
  onEndDown: (wire: WireFacts, end: "from" | "to", e: PointerEvent) => void;
}

/** The wires, each with its two ends to take hold of. */
export function Wires({ wires, picked, net, onPick, onEndKey, onEndDown }: Props) {
  return wires.map((w) => {
    const d = pathOf(w.path);
    const [first, last] = [w.path[0], w.path[w.path.length - 1]];
    return (
      <g
        key={w.number}
        className={css.wire}
        data-wire={w.number}
        data-colour={w.colour}
        data-picked={picked === w.number || undefined}
        data-faded={(net !== undefined && net !== w.net && picked !== w.number) || undefined}
        data-done={w.done || undefined}
      >
        <title>{`Wire ${w.number}, ${w.colour}, ${w.net}: ${w.fromHole || w.from} to ${w.toHole || w.to}`}</title>
        <path className={css.halo} d={d} />
        <path className={css.strand} d={d} onClick={() => onPick(w.number)} />
        {(["from", "to"] as const).map((end) => {
          const at = end === "from" ? first : last;
          if (!at) return null;
          const [hole, pin] = end === "from" ? [w.fromHole, w.from] : [w.toHole, w.to];
          return (
            <circle
              key={end}
              className={css.end}
              data-end={end}
              cx={at.x}
              cy={at.y}
              r="0.34"
              role="button"
              tabIndex={0}
              aria-label={`Wire ${w.number}, ${w.colour}, ${w.net}: end ${hole ? `in ${hole}` : ""} ${pin ? `at ${pin}` : ""}; arrow keys move it, Delete takes the wire away`}
              onFocus={() => onPick(w.number)}
              onKeyDown={(e) => onEndKey(w, end, e)}
              onPointerDown={(e) => onEndDown(w, end, e)}
            />
          );
        })}
      </g>
    );
  });
}
