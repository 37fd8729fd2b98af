import { useQuery } from "@tanstack/react-query";
import type { Module } from "../../api/client";
import type { CodeFile } from "../../api/code";
import { noExtras, runQuery } from "../../api/queries";
import { Glass } from "../../parts/glass/Glass";
import { groundOf } from "../../parts/glass/paint";
import { tintOf } from "../../parts/glass/tints";
import { useBench } from "../../work/BenchContext";
import { placesOf, within, type Part } from "./parts";
import css from "./Parts.module.css";

interface Props {
  modules: Module[];
  files: CodeFile[];
  pointed: Part | undefined;
  onPoint: (part: Part | undefined) => void;
  onJump: (part: Part, screen: string) => void;
}

/** The screens and fields that code comes from: pointed at, their lines are marked; pressed, the next of them is shown. */
export function Parts({ modules, files, pointed, onPoint, onJump }: Props) {
  const { bench } = useBench();
  return (
    <aside className={css.parts} aria-label="Screens and fields">
      {modules.map((m) => {
        const module = bench.modules.indexOf(m);
        return (
          <section key={m.id} aria-label={m.name || "Unnamed module"}>
            {modules.length > 1 && <h2>{m.name || "Unnamed module"}</h2>}
            <ol>
              {m.screens.map((s, screen) => {
                const whole = { module, screen, field: -1 };
                return (
                  <li key={s.id} data-pointed={(pointed && within(pointed, whole)) || undefined}>
                    <Button
                      part={whole}
                      files={files}
                      onPoint={onPoint}
                      onJump={(p) => onJump(p, s.id)}
                      title={s.name || `screen ${screen + 1}`}
                      number={screen + 1}
                    >
                      <Picture module={m} at={screen} />
                    </Button>
                    {(s.fields ?? []).map((f, field) => {
                      const part = { module, screen, field };
                      return (
                        <Button
                          key={f.name}
                          part={part}
                          files={files}
                          pointed={pointed?.field === field && within(pointed, part)}
                          onPoint={onPoint}
                          onJump={(p) => onJump(p, s.id)}
                          title={f.name}
                        />
                      );
                    })}
                  </li>
                );
              })}
            </ol>
          </section>
        );
      })}
    </aside>
  );
}

interface ButtonProps {
  part: Part;
  files: CodeFile[];
  title: string;
  number?: number;
  pointed?: boolean;
  onPoint: (part: Part | undefined) => void;
  onJump: (part: Part) => void;
  children?: React.ReactNode;
}

function Button({ part, files, title, number, pointed, onPoint, onJump, children }: ButtonProps) {
  const places = placesOf(files, part).length;
  return (
    <button
      type="button"
      className={children ? css.screen : css.field}
      data-pointed={pointed || undefined}
      title={`${places} ${places === 1 ? "place" : "places"} in the code: press for the next`}
      onPointerEnter={() => onPoint(part)}
      onPointerLeave={() => onPoint(undefined)}
      onFocus={() => onPoint(part)}
      onBlur={() => onPoint(undefined)}
      onClick={() => onJump(part)}
    >
      {children}
      <span>
        {number && <b>{number}</b>} {title}
      </span>
      <small>{places}</small>
    </button>
  );
}

/** A screen as the simulated module shows it. */
function Picture({ module, at }: { module: Module; at: number }) {
  const { setupOf } = useBench();
  const { data: run } = useQuery(runQuery(setupOf(module, at), noExtras));
  if (!run) return null;
  const pitch = Math.max(0.6, Math.min(1.6, 196 / (run.glass.cols * 6)));
  return (
    <div className={css.glass} style={{ background: groundOf(run.glass, tintOf(module.display.tint)) }}>
      <Glass glass={run.glass} tint={module.display.tint} pitch={pitch} name={`Screen ${at + 1}`} />
    </div>
  );
}
