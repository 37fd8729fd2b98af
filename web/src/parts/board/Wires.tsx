import { memo, type KeyboardEvent, type PointerEvent } from "react";
import type { WireFacts } from "../../api/client";
import { cut, pathOf } from "./geometry";
import css from "./Board.module.css";

/** What can be done with a wire; it stays the same, so that wires that did not change are not drawn again. */
export interface WireActs {
  pick: (number: number) => void;
  key: (wire: WireFacts, end: "from" | "to", e: KeyboardEvent) => void;
  down: (wire: WireFacts, end: "from" | "to", e: PointerEvent) => void;
}

interface Props {
  wire: WireFacts;
  picked: boolean;
  /** Another net is looked at. */
  faded: boolean;
  acts: WireActs;
}

/** How far from a wire that crosses over it a wire ends, the round end of its line aside. */
const BENEATH = 0.55;

/** A wire, with its two ends to take hold of. */
export const WireShape = memo(function WireShape({ wire: w, picked, faded, acts }: Props) {
  const d = cut(w.path, w.under ?? [], BENEATH)
    .map(pathOf)
    .join("");
  const colour = w.colour || "any";
  const [first, last] = [w.path[0], w.path[w.path.length - 1]];
  return (
    <g
      className={css.wire}
      data-wire={w.number}
      data-colour={colour}
      data-picked={picked || undefined}
      data-faded={faded || undefined}
      data-done={w.done || undefined}
    >
      <title>{`Wire ${w.number}, ${colour}${colour === "any" ? " colour" : ""}, ${w.called.net || "no net"}: ${w.fromHole || w.called.from} to ${w.toHole || w.called.to}`}</title>
      <path className={css.halo} d={d} />
      <path className={css.strand} d={d} onClick={() => acts.pick(w.number)} />
      {(["from", "to"] as const).map((end) => {
        const at = end === "from" ? first : last;
        if (!at) return null;
        const [hole, pin] = end === "from" ? [w.fromHole, w.called.from] : [w.toHole, w.called.to];
        return (
          <g
            key={end}
            className={css.end}
            data-end={end}
            role="button"
            tabIndex={0}
            aria-label={`Wire ${w.number}, ${colour}, ${w.called.net}: end ${hole ? `in ${hole}` : ""} ${pin ? `at ${pin}` : ""}; arrow keys move it, Delete takes the wire away`}
            onFocus={() => acts.pick(w.number)}
            onKeyDown={(e) => acts.key(w, end, e)}
            onPointerDown={(e) => acts.down(w, end, e)}
          >
            <circle cx={at.x} cy={at.y} r="0.42" />
            <text x={at.x} y={at.y + 0.18}>
              {w.number}
            </text>
          </g>
        );
      })}
    </g>
  );
});
