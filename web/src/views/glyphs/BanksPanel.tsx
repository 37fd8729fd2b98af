import { useQuery } from "@tanstack/react-query";
import type { Drawing, LoadingPlan } from "../../api/client";
import { loadingQuery } from "../../api/glyphs";
import { Cells } from "../../parts/dots/Cells";
import { Findings } from "../../parts/findings/Findings";
import { time } from "../../ui/numbers";
import { useBench } from "../../work/BenchContext";
import { heightOf, tall, type Target } from "../../work/glyphs";
import { reason } from "../../work/reason";
import { loadingOf } from "../../work/setup";
import { Term } from "../../ui/Term";
import { Check } from "../../ui/Check";
import { Bare } from "../../ui/Bare";
import { useSlots } from "../../work/useSlots";
import css from "./BanksPanel.module.css";

/** What the slots hold while the screens of the module follow each other, and what is loaded when. */
export function BanksPanel({ onChoose }: { onChoose: (t: Target) => void }) {
  const { bench, module, changeModule } = useBench();
  const { data: plan, error } = useQuery(loadingQuery(loadingOf(bench, module), bench.modules.indexOf(module)));
  const set = (next: NonNullable<typeof module.loading>) =>
    changeModule((m) => {
      const loading = { ...m.loading, ...next };
      return { ...m, loading: loading.loop || loading.onGlass ? loading : undefined };
    });
  return (
    <section className={css.banks} aria-label="Banks">
      <p className="lead">
        Glyphs of the <Term of="library" /> are given <Term of="slot">slots</Term> by themselves. Here is what is loaded
        while the screens of {module.name || "the module"} follow each other in their order.
      </p>
      <div>
        <Check checked={module.loading?.loop ?? false} onChange={(e) => set({ loop: e.target.checked || undefined })}>
          after the last screen comes the first
        </Check>
        <Check
          checked={module.loading?.onGlass ?? false}
          onChange={(e) => set({ onGlass: e.target.checked || undefined })}
        >
          a slot may change while it is on the glass
        </Check>
      </div>
      {error && <p role="alert">{reason(error)}</p>}
      {plan && (
        <>
          <Words plan={plan} />
          {plan.findings.length > 0 && <Findings findings={plan.findings} />}
          {plan.planned && <Timetable plan={plan} onChoose={onChoose} />}
        </>
      )}
    </section>
  );
}

/** The plan in a sentence or two. */
function Words({ plan }: { plan: LoadingPlan }) {
  if (!plan.planned) return null;
  if (plan.needs === 0)
    return <p role="status">The screens show no glyphs of the library: there is nothing to load by plan.</p>;
  const each = plan.rounds > 0 ? plan.loads / plan.rounds : plan.loads;
  const per = Math.max(plan.rounds, 1);
  const glyphs = (n: number) => `${Number(n.toFixed(2))} ${n === 1 ? "glyph" : "glyphs"}`;
  return (
    <p role="status" className={css.words}>
      <b>
        {plan.needs} glyphs, {plan.holds} slots.
      </b>{" "}
      {plan.rounds > 0
        ? plan.loads === 0
          ? "Once they are loaded, nothing is loaded again."
          : `Going round, ${glyphs(each)} ${each === 1 ? "is" : "are"} loaded a round${plan.rounds > 1 ? ` on average (it repeats after ${plan.rounds} rounds)` : ""}`
        : `${glyphs(each)} ${each === 1 ? "is" : "are"} loaded in all`}
      {plan.loads > 0 &&
        `, ${Math.round((8 * plan.sum.data) / 8 / per)} bytes to CGRAM in ${time(plan.sum.wireUs / per)} on the wire; if each screen loaded its own it would be ${glyphs(plan.each)}. ${plan.least ? "That is proved to be the fewest." : "It is not proved to be the fewest."}`}
    </p>
  );
}

/** The slots over the screens: what each holds, and what is loaded before which screen. */
function Timetable({ plan, onChoose }: { plan: LoadingPlan; onChoose: (t: Target) => void }) {
  const { bench, module } = useBench();
  const height = heightOf(module);
  const shown = plan.steps.slice(0, plan.rounds > 0 ? Math.min(plan.steps.length, 2 * module.screens.length) : 40);
  const slots = useSlots();
  const nameOf = (rows: number[]) => find(bench.glyphs ?? [], rows);
  const held = new Map<number, number[]>();
  const columns = shown.map((step) => {
    for (const load of step.loads) held.set(load.slot, load.rows);
    return { step, held: new Map(held) };
  });
  if (plan.needs === 0) return null;
  return (
    <div className={css.scroll} tabIndex={0} role="region" aria-label="Slots over the screens">
      <table className={css.table}>
        <thead>
          <tr>
            <th scope="col">Slot</th>
            {columns.map(({ step }, i) => (
              <th key={i} scope="col">
                {module.screens[step.screen]?.name || `Screen ${step.screen + 1}`}
                {i >= module.screens.length && <small> again</small>}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {slots.map(({ slot }) => (
            <tr key={slot}>
              <th scope="row">{slot}</th>
              {columns.map(({ step, held: has }, i) => {
                const rows = has.get(slot);
                const load = step.loads.find((l) => l.slot === slot);
                const on = step.held.some((h) => h.slot === slot);
                const fixed = plan.fixed.includes(slot);
                const drawing = rows && nameOf(rows);
                if (fixed) return <td key={i}>fixed</td>;
                return (
                  <td key={i}>
                    {rows && (
                      <Bare
                        className={css.cell}
                        data-load={load ? (load.shown ? "shown" : "yes") : undefined}
                        data-on={on || undefined}
                        title={`${drawing?.name ?? "a glyph"}${load ? ", loaded before the screen" : on ? ", still there" : ", kept for later"}`}
                        aria-label={`Slot ${slot}: ${drawing?.name ?? "a glyph"}${load ? ", loaded" : on ? ", shown" : ", kept"}`}
                        onClick={() =>
                          drawing?.key &&
                          onChoose(
                            drawing.part
                              ? { kind: "picture", name: drawing.part.picture }
                              : { kind: "drawing", key: drawing.key },
                          )
                        }
                      >
                        <Cells cells={[tall(rows, height)]} cols={1} dot={2.4} />
                      </Bare>
                    )}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
        <tfoot>
          <tr>
            <th scope="row">Loaded</th>
            {columns.map(({ step }, i) => (
              <td key={i}>{step.loads.length === 0 ? "–" : `${step.loads.length}, ${time(step.cost.wireUs)}`}</td>
            ))}
          </tr>
        </tfoot>
      </table>
      <p className={css.legend}>
        <span data-load="yes" /> loaded before the screen <span data-on /> shown by it <span /> kept for later
      </p>
    </div>
  );
}

function find(glyphs: Drawing[], rows: number[]): Drawing | undefined {
  const want = tall(rows, 11).join();
  return glyphs.find((d) => tall(d.rows, 11).join() === want);
}
