import { useMemo, type CSSProperties } from "react";
import type { WireFacts, WiringResult } from "../../api/client";
import "../../parts/board/colours.css";
import board from "../../parts/board/Board.module.css";
import { Boards } from "../../parts/board/Boards";
import { ThingShape, type ThingActs } from "../../parts/board/Things";
import { WireShape, type WireActs } from "../../parts/board/Wires";
import css from "./hand.module.css";

/** How far the close-up reaches from the end, in pitches. */
const REACH = 4.6;

const still: WireActs & ThingActs = { pick: () => undefined, key: () => undefined, down: () => undefined };

/** The two ends of a wire, close up, each with its strip and what lies around it. */
export function WireEnds({ result, number }: { result: WiringResult; number: number }) {
  const wire = result.wires.find((w) => w.number === number);
  if (!wire) return null;
  return (
    <div className={css.ends}>
      <End result={result} wire={wire} end="from" />
      <End result={result} wire={wire} end="to" />
    </div>
  );
}

function End({ result, wire, end }: { result: WiringResult; wire: WireFacts; end: "from" | "to" }) {
  const at = end === "from" ? wire.path[0] : wire.path[wire.path.length - 1];
  const [hole, pin] = end === "from" ? [wire.fromHole, wire.called.from] : [wire.toHole, wire.called.to];
  const near = useMemo(
    () =>
      result.things.filter(
        (t) => at && t.x < at.x + REACH && t.x + t.w > at.x - REACH && t.y < at.y + REACH && t.y + t.h > at.y - REACH,
      ),
    [result.things, at],
  );
  return (
    <figure>
      {at && (
        <div inert>
          <svg
            className={board.drawing}
            viewBox={`${at.x - REACH} ${at.y - REACH} ${2 * REACH} ${2 * REACH}`}
            style={{ "--text": "0.78px" } as CSSProperties}
            aria-hidden="true"
          >
            <Boards boards={result.boards} rows={result.rows} />
            {near.map((t) => (
              <ThingShape key={t.id} thing={t} picked={false} marked="" acts={still} />
            ))}
            {result.wires.map((w) => (
              <WireShape key={w.number} wire={w} picked={w === wire} faded={w !== wire} acts={still} />
            ))}
            <circle className={css.mark} cx={at.x} cy={at.y} r="0.85" />
          </svg>
        </div>
      )}
      <figcaption>
        {hole ? hole.split("/").pop() : pin}
        <small>{hole ? `${hole.includes("/") ? `${hole.split("/")[0]}` : ""}${pin ? ` at ${pin}` : ""}` : ""}</small>
      </figcaption>
    </figure>
  );
}
