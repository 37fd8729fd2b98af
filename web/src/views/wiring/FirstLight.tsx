import Button from "@mui/material/Button";
import { useState } from "react";
import type { LightStep, WiringResult } from "../../api/client";
import { Glass } from "../../parts/glass/Glass";
import { ActThere, MeasureThere, ScanThere } from "../../parts/AtTheBoard";
import { Photograph } from "../../parts/photo/Photograph";
import { useBench } from "../../work/BenchContext";
import { Measured } from "../../parts/light/Measured";
import { refused, useFirstLight } from "../../work/useFirstLight";
import { now } from "../../work/useLog";
import type { Picked } from "./Drawing";
import { Trouble } from "../../parts/trouble/Trouble";
import { Term } from "../../ui/Term";
import { Bare } from "../../ui/Bare";
import { Tick } from "../../ui/Tick";
import css from "./FirstLight.module.css";

interface Props {
  result: WiringResult;
  onPick: (p: Picked) => void;
}

/** The first power-up, step by step: what to do, what one should see, and what it means when one sees something else. */
export function FirstLight({ result, onPick }: Props) {
  const { module, setupOf } = useBench();
  const light = useFirstLight();
  const { index, of: slim, steps, trouble, again, seen, set, lit, measure } = light;
  const troubled = <Trouble trouble={trouble} stale={steps !== undefined} again={again} />;
  if (!steps) return trouble ? troubled : <p>Looking ahead…</p>;
  const next = steps.find((s) => !seen(s.id));
  return (
    <section className={css.steps} aria-label={`First light of ${module.name || "the module"}`}>
      <h2>
        <Term of="first light">First light</Term> of {module.name || "this module"}
      </h2>
      <ol>
        {steps.map((s) => {
          const at = seen(s.id);
          return (
            <li key={s.id} data-now={s === next || undefined} data-done={at ? "" : undefined}>
              <label className={css.head}>
                <Tick checked={at !== undefined} onChange={(e) => (e.target.checked ? lit(s) : set(s.id, undefined))} />
                <b>{s.title}</b>
                {at && <small>{new Date(at.at).toLocaleString()}</small>}
              </label>
              <p>{s.do}</p>
              {s.caution && <p className={css.caution}>{s.caution}</p>}
              <p className={css.see}>{s.see}</p>
              {s.act === "send" && (
                <ActThere act="send" setup={setupOf(module)}>
                  Begin it on the real glass
                </ActThere>
              )}
              {s.act === "light" && <ActThere act="light" setup={setupOf(module)} />}
              {s.measure && s.act === "measure" && (
                <MeasureThere
                  module={index}
                  what={s.id === "supply" ? "VDD" : "VO"}
                  onMeasured={(mV) => {
                    const wrong = refused(s, mV);
                    if (wrong === undefined) measure(s, mV);
                    return wrong === undefined ? "Taken over." : `Not taken over: ${wrong}.`;
                  }}
                />
              )}
              {s.act === "scan" && (
                <ScanThere
                  onFound={(found) => {
                    const there = found.includes(module.link.outputs?.address ?? -1);
                    if (there && !at) set(s.id, now());
                    return there ? "It is there." : "The module’s address is not among them.";
                  }}
                />
              )}
              <div className={css.glasses}>
                {s.glass.map((g, i) => (
                  <Glass key={i} glass={g} tint={module.display.tint} pitch={pitchOf(g.cols)} name={s.title} />
                ))}
              </div>
              {s.glass.length > 0 && (
                <Photograph
                  of={{ bench: slim, module: index, screen: 0 }}
                  name={`${s.title}, photographed`}
                  title="Photograph it"
                  among={[...s.glass, ...s.else.flatMap((e) => e.glass ?? [])]}
                >
                  {({ is }) => {
                    const there = is !== undefined && is < s.glass.length;
                    const other = s.else.filter((e) => e.glass)[(is ?? 0) - s.glass.length];
                    return (
                      <>
                        <p role="status">
                          {there
                            ? "It looks as it should."
                            : is !== undefined && other
                              ? `It is what stands below as “${other.says}”.`
                              : "It is none of what is expected here: the fault finder tells more."}
                        </p>
                        {there && !at && (
                          <Button variant="contained" onClick={() => lit(s)}>
                            Done
                          </Button>
                        )}
                      </>
                    );
                  }}
                </Photograph>
              )}
              {s.measure && <Measured step={s} light={light} />}
              <Otherwise step={s} tint={module.display.tint} result={result} onPick={onPick} />
            </li>
          );
        })}
      </ol>
    </section>
  );
}

/** CSS pixels a dot takes, so that a glass fits the panel. */
const pitchOf = (cols: number) => Math.max(1, Math.min(2, Math.floor(620 / (cols * 6)) / 2));

/** What one may see in place of what one should. */
function Otherwise({ step, tint, result, onPick }: { step: LightStep; tint: string | undefined } & Props) {
  const [open, setOpen] = useState(false);
  if (step.else.length === 0) return null;
  return (
    <details open={open} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>I see something else</summary>
      {open && (
        <ul>
          {step.else.map((s, i) => (
            <li key={i}>
              <b>{s.says}</b>
              {s.glass && <Glass glass={s.glass} tint={tint} pitch={pitchOf(s.glass.cols)} name={s.says} />}
              <ul>
                {s.means.map((m) => (
                  <li key={m.says}>
                    {m.says}{" "}
                    {(m.wires ?? []).map((n) => (
                      <Bare
                        key={n}
                        className={css.wire}
                        title={result.wires.find((w) => w.number === n)?.called.net}
                        onClick={() => onPick({ wire: n })}
                      >
                        wire {n}
                      </Bare>
                    ))}
                  </li>
                ))}
              </ul>
            </li>
          ))}
        </ul>
      )}
    </details>
  );
}
