import { useQuery } from "@tanstack/react-query";
import { useParams, useLocation } from "react-router-dom";
import { checkQuery } from "../../api/queries";
import { Findings } from "../../parts/findings/Findings";
import { ScreenPicture } from "../../parts/glass/ScreenPicture";
import { useBench, useSavingState } from "../../work/BenchContext";
import { useRun } from "../../work/useRun";
import css from "./hand.module.css";

/** Where each of the desk's views is better, and why. */
const better: Record<string, string> = {
  bench: "Modules and devices are added and joined at the desk.",
  module: "What a module is, its supply and its link are set at the desk.",
  glyphs: "Glyphs are drawn at the desk, where their dots can be pointed at.",
  run: "Steps, waveforms and memory need the width of the desk.",
  recording: "A recording is read and scrubbed at the desk.",
  code: "The program is read, changed and uploaded at the desk.",
};

/** A view of the desk, to be read in the hand: the state of the bench as far as it says something here. */
export default function Reading() {
  const view = useLocation().pathname.split("/")[4] ?? "";
  const { module: named } = useParams();
  const { id, bench, module, screen, setupOf } = useBench();
  const { revision } = useSavingState();
  const { data: everywhere } = useQuery({ ...checkQuery(id, revision), enabled: view === "bench" });
  const { data: run } = useRun();
  return (
    <section className={css.view} aria-label="To be read">
      <p className={css.note}>{better[view] ?? "This is better at the desk."}</p>
      {view === "bench" &&
        bench.modules.map((m) => (
          <div key={m.id} className={css.entry} aria-current={m.id === named || undefined}>
            <b>{m.name || "Unnamed module"}</b>
            <small>
              {m.display.geometry}, {m.display.technology.toUpperCase()}
            </small>
            <ScreenPicture
              setup={setupOf(m)}
              tint={m.display.tint}
              name={m.name || "Unnamed module"}
              width={270}
              most={2.2}
              className={css.glass}
            />
          </div>
        ))}
      {view === "bench" && everywhere && <Findings findings={everywhere} />}
      {view !== "bench" && (
        <>
          <ScreenPicture
            setup={setupOf(module)}
            tint={module.display.tint}
            name={`${module.name}: ${screen.name ?? screen.id}`}
            width={280}
            most={2.4}
            className={css.glass}
          />
          {view === "glyphs" && (
            <p>
              {(module.glyphs ?? []).length === 0
                ? "No slot of this module has a glyph."
                : `Slots: ${(module.glyphs ?? []).map((g) => `${g.slot} ${g.name}`).join(", ")}.`}
            </p>
          )}
          {view === "run" && run && (
            <p>
              {run.program.steps.length} steps, {run.program.totals.wireWords} words on the wire.
            </p>
          )}
          {run && <Findings findings={run.findings} />}
        </>
      )}
    </section>
  );
}
