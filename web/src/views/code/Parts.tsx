import type { Module } from "../../api/client";
import type { CodeFile } from "../../api/code";
import { ScreenPicture } from "../../parts/glass/ScreenPicture";
import { useBench } from "../../work/BenchContext";
import { Bare } from "../../ui/Bare";
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
  const { bench, setupOf } = useBench();
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
                      <ScreenPicture
                        setup={setupOf(m, screen)}
                        tint={m.display.tint}
                        name={`Screen ${screen + 1}`}
                        width={196}
                        most={1.6}
                        className={css.glass}
                      />
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
    <Bare
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
    </Bare>
  );
}
