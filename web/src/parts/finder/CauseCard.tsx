import Button from "@mui/material/Button";
import { useState } from "react";
import { useNavigate } from "react-router-dom";
import { type Glass as GlassState, type Remedy, type WiringResult } from "../../api/client";
import type { FindResult, LikelyCause } from "../../api/faults";
import { BoardPicture, wiresAt } from "../board/BoardPicture";
import { Glass } from "../glass/Glass";
import { CELL_COLS } from "../glass/metrics";
import { groundOf } from "../glass/paint";
import { tintOf } from "../glass/tints";
import { useBench } from "../../work/BenchContext";
import { reason } from "../../work/reason";
import { useNote } from "../../work/useLog";
import css from "./CauseCard.module.css";

interface Props {
  found: FindResult;
  cause: LikelyCause;
  wiring: WiringResult | undefined;
  /** What was seen, in words. */
  seen: string;
  /** The cause was settled: what one sees is asked anew. */
  onMended: () => void;
}

/** Causes for which one unplugs before touching anything. */
const harmful = ["supply.", "header.", "light.bare", "wire.short", "vfd."];

/** The chosen cause on the board: where it is, what settles it, the glass before and after. */
export function CauseCard({ found, cause, wiring, seen, onMended }: Props) {
  const { id, module, remedy } = useBench();
  const note = useNote();
  const navigate = useNavigate();
  const [refused, setRefused] = useState<string>();
  const pins = (cause.pins ?? []).map((p) => `${module.id}/${p}`);
  const drawn = (wiring?.findings ?? []).filter(
    (f) => f.severity !== "note" && (f.pins ?? []).some((p) => pins.includes(p)),
  );
  const numbers = wiring ? wiresAt(wiring, pins) : [];
  /** Writes down what was seen, what it was and what was done. */
  const write = async (done: string) => {
    try {
      if (seen) await note({ kind: "seen", text: seen });
      await note({ kind: "found", text: `${cause.what} (${cause.where})`, causes: cause.code.split("+") });
      await note({ kind: "changed", text: done });
    } catch (e) {
      setRefused(`It could not be written into the log: ${reason(e)}`);
      return;
    }
    onMended();
  };
  const mend = async (r: Remedy) => {
    const why = remedy(r);
    setRefused(why);
    if (!why) await write(`${r.label}. ${cause.fix}`);
  };
  const remedies = [...(cause.remedies ?? []), ...drawn.flatMap((f) => f.remedies ?? [])];
  return (
    <section className={css.card} aria-label="The chosen cause">
      <h2>Where: {cause.where}</h2>
      <p>{cause.what}</p>
      {harmful.some((h) => cause.code.split("+").some((c) => c.startsWith(h))) && (
        <p className={css.caution}>Unplug before you touch it: a wrong supply kills modules.</p>
      )}
      <div className={css.glasses}>
        <Titled title="It shows" glass={cause.glass} tint={module.display.tint} />
        <Titled title="Once it is settled" glass={found.sent} tint={module.display.tint} />
      </div>
      <p className={css.fix}>
        <b>What settles it.</b> {cause.fix}
      </p>
      {wiring && cause.topic !== "program" && (
        <>
          <div className={css.board}>
            <BoardPicture result={wiring} pins={pins} part={module.id} onWire={() => undefined} />
          </div>
          {numbers.length > 0 && (
            <p className={css.wires}>
              {numbers.length === 1 ? "Wire" : "Wires"} {numbers.join(", ")} of the work list
              {drawn.length > 0 && <b>: your board is drawn so</b>}
            </p>
          )}
        </>
      )}
      {refused && <p role="alert">{refused}</p>}
      <div className={css.actions}>
        {remedies.map((r) => (
          <Button key={r.label} variant="contained" onClick={() => void mend(r)}>
            {r.label}
          </Button>
        ))}
        <Button variant={remedies.length > 0 ? "outlined" : "contained"} onClick={() => void write(cause.fix)}>
          It was this, and it is mended
        </Button>
        {pins.length > 0 && (
          <Button variant="outlined" onClick={() => void navigate(`/benches/${id}/${module.id}/wiring`)}>
            Open the wiring
          </Button>
        )}
      </div>
    </section>
  );
}

function Titled({ title, glass, tint }: { title: string; glass: GlassState; tint: string | undefined }) {
  const pitch = Math.max(0.8, Math.min(1.6, 158 / (glass.cols * CELL_COLS)));
  return (
    <figure className={css.figure}>
      <span style={{ background: groundOf(glass, tintOf(tint)) }}>
        <Glass glass={glass} tint={tint} pitch={pitch} name={title} />
      </span>
      <figcaption>{title}</figcaption>
    </figure>
  );
}
