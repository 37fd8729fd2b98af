import Button from "@mui/material/Button";
import { useMemo, useRef } from "react";
import { Glass } from "../../parts/glass/Glass";
import { fittingPitch, GLASS_MARGIN } from "../../parts/glass/metrics";
import { groundOf } from "../../parts/glass/paint";
import { tintOf } from "../../parts/glass/tints";
import { Device, Pad, pad, rangeOf } from "../../parts/inputs/Device";
import { useAwake } from "../../ui/useAwake";
import { useRested } from "../../ui/useRested";
import { useWidth } from "../../ui/useWidth";
import { useBench } from "../../work/BenchContext";
import { inputTitle, sceneTitle } from "../../work/showWords";
import { usePlay } from "../../work/usePlay";
import css from "./hand.module.css";

/** The show, played with large inputs: what the hand does here, the real thing beside ought to do too. */
export default function Scenes() {
  const { bench, module } = useBench();
  const rested = useRested(bench, module.id);
  const here = Math.max(
    rested.modules.findIndex((m) => m.id === module.id),
    0,
  );
  const modules = useMemo(() => [here], [here]);
  const play = usePlay(rested, modules);
  useAwake();
  const room = useRef<HTMLDivElement>(null);
  const width = useWidth(room);
  const { scenes = [], inputs = [], feeds = [] } = module.show ?? {};
  const part = play.parts.find((p) => p.module === module.id);
  const current = part && scenes[part.state.scene];
  const edit = current?.edit?.field && current.edit.keys?.length ? current.edit : undefined;
  const fields = module.screens.flatMap((s) => s.fields ?? []);
  const happen = (e: Parameters<typeof play.happen>[0]) => {
    const of = inputs.find((i) => i.id === e.input);
    play.happen(e, of?.kind === "button" ? (of.button?.debounceMs ?? 20) : undefined);
  };
  if (scenes.length === 0)
    return <p className={css.note}>This module has no scenes yet. They are made at the desk, under Scenes.</p>;
  const glass = part?.glass;
  const pitch = glass ? fittingPitch(glass.cols, width, 4) : 1;
  return (
    <section className={css.view} aria-label="Scenes">
      <div ref={room}>
        {glass ? (
          <div
            className={css.glass}
            style={{ padding: GLASS_MARGIN * pitch, background: groundOf(glass, tintOf(module.display.tint)) }}
          >
            <Glass glass={glass} tint={module.display.tint} pitch={pitch} name={module.name || "the module"} />
          </div>
        ) : (
          <p>The module is being initialised…</p>
        )}
        <p className={css.step} role="status">
          {sceneTitle(current)}
          {part?.state.typing && `; ${part.state.typing.field} is ${part.state.typing.value}`}
        </p>
      </div>
      {play.error && <p role="alert">{play.error}</p>}
      <div className={css.keys}>
        <Button className={css.big} variant="contained" aria-pressed={play.playing} onClick={play.toggle}>
          {play.playing ? "Pause" : "Play"}
        </Button>
        <Button className={css.big} variant="outlined" color="inherit" onClick={() => play.restart()}>
          From the start
        </Button>
      </div>
      <div className={css.inputs}>
        {edit && (
          <div className={css.input} data-wide>
            <Pad edit={edit} keys={(part?.keys ?? []).filter((k) => scenes[k.scene] === current)} onHappen={happen} />
          </div>
        )}
        {inputs.map((input, i) =>
          edit && input.kind === "button" && pad(edit, input.id) ? null : (
            <div
              key={input.id}
              className={css.input}
              data-wide={input.kind === "signal" || input.kind === "serial" || undefined}
            >
              <b>{inputTitle(input)}</b>
              <Device
                input={input}
                known={part?.state.inputs[i]}
                range={rangeOf(input, feeds, fields)}
                onHappen={(e) => happen({ ...e, input: input.id })}
              />
            </div>
          ),
        )}
      </div>
      {inputs.length === 0 && <p className={css.note}>This show listens to nothing: it plays by its times alone.</p>}
    </section>
  );
}
