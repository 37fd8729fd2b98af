import { memo, useRef, type KeyboardEvent } from "react";
import type { Module, Screen } from "../../api/client";
import { ScreenPicture } from "../../parts/glass/ScreenPicture";
import { Icon, type IconName } from "../../ui/Icon";
import { InlineText } from "../../ui/InlineText";
import { useRested } from "../../ui/useRested";
import { useBench, type BenchWork } from "../../work/BenchContext";
import { withScreen } from "../../work/setup";
import { useGlass } from "../../work/GlassContext";
import { Bare } from "../../ui/Bare";
import { Quiet } from "../../ui/Quiet";
import css from "./ScreenStrip.module.css";

/**
 * The screens of the selected module, each with its live glass: picked, named, put in order, copied and taken away. What is
 * typed is drawn on the module, and here once the keys rest.
 */
export function ScreenStrip() {
  const work = useBench();
  const { module, screen } = work;
  return <Strip work={useRested(work, [module.id, screen.id, ...module.screens.map((s) => s.id + s.name)].join())} />;
}

const Strip = memo(function Strip({ work }: { work: BenchWork }) {
  const { module, screen, selectScreen, changeModule } = work;
  const { toGlassRef } = useGlass();
  const list = useRef<HTMLOListElement>(null);
  const { screens } = module;
  const at = screens.findIndex((s) => s.id === screen.id);
  const used = module.show?.scenes?.some((s) => s.screen === screen.id) ?? false;

  // What is drawn here may be a moment old: changes are made to the screens as they are.
  const insert = (next: (here: Screen) => Omit<Screen, "id">) => {
    const id = freeID(module);
    changeModule((m) => {
      const k = m.screens.findIndex((s) => s.id === screen.id);
      const here = m.screens[k];
      if (!here) return m;
      return { ...m, screens: [...m.screens.slice(0, k + 1), { ...next(here), id }, ...m.screens.slice(k + 1)] };
    });
    selectScreen(id);
  };
  const move = (by: number) =>
    changeModule((m) => {
      const here = m.screens.find((s) => s.id === screen.id);
      const next = m.screens.filter((s) => s !== here);
      if (here) next.splice(m.screens.indexOf(here) + by, 0, here);
      return { ...m, screens: next };
    });
  const remove = () => {
    const next = screens[at + 1] ?? screens[at - 1];
    changeModule((m) => ({ ...m, screens: m.screens.filter((s) => s.id !== screen.id) }));
    if (next) selectScreen(next.id);
  };
  const onKey = (e: KeyboardEvent) => {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[e.key];
    if (!by || e.altKey || e.ctrlKey) return;
    const next = screens[at + by];
    if (!next) return;
    e.preventDefault();
    selectScreen(next.id);
    list.current?.querySelectorAll("button")[at + by]?.focus();
  };
  const tools: { icon: IconName; title: string; off?: string | false; act: () => void }[] = [
    { icon: "left", title: "Put it one earlier", off: at === 0 && "It is the first", act: () => move(-1) },
    {
      icon: "right",
      title: "Put it one later",
      off: at === screens.length - 1 && "It is the last",
      act: () => move(1),
    },
    {
      icon: "copy",
      title: "Copy it",
      act: () => insert((here) => ({ ...here, name: here.name ? `${here.name}, copy`.slice(0, 80) : undefined })),
    },
    {
      icon: "bin",
      title: "Take it away",
      off: screens.length < 2 ? "A module has at least one screen" : used && "A scene shows it",
      act: remove,
    },
  ];
  return (
    <section className={css.strip} aria-label="Screens of the module">
      <ol ref={list} className={css.list} onKeyDown={onKey}>
        {screens.map((s, i) => (
          <li key={s.id}>
            <Bare
              className={css.tile}
              aria-pressed={s.id === screen.id}
              tabIndex={s.id === screen.id ? 0 : -1}
              aria-label={`Screen ${i + 1}: ${s.name || "unnamed"}`}
              onClick={() => selectScreen(s.id)}
            >
              {screens.length > 1 && (
                <ScreenPicture
                  setup={work.setupOf(module, i)}
                  tint={module.display.tint}
                  name={`Screen ${i + 1}`}
                  width={150}
                  most={1.2}
                  className={css.glass}
                />
              )}
              <span>
                <b>{i + 1}</b> {s.name || "unnamed"}
              </span>
            </Bare>
          </li>
        ))}
      </ol>
      <div className={css.doing}>
        <div className={css.name}>
          <InlineText
            key={screen.id}
            label="Name of the screen"
            value={screen.name ?? ""}
            placeholder="Name it"
            onChange={(name) =>
              changeModule((m) => withScreen(m, screen.id, (s) => ({ ...s, name: name || undefined })))
            }
          />
        </div>
        <Quiet
          onClick={() => {
            insert(() => ({ rows: [] }));
            toGlassRef.current(); // what is typed next is for the new screen
          }}
        >
          New screen
        </Quiet>
        {tools.map((t) => (
          <Quiet key={t.title} aria-label={t.title} title={t.off || t.title} disabled={Boolean(t.off)} onClick={t.act}>
            <Icon name={t.icon} size={17} />
          </Quiet>
        ))}
      </div>
    </section>
  );
});

/** An id that no screen of a module has. */
function freeID(m: Module): string {
  for (let n = m.screens.length + 1; ; n++) {
    const id = `screen-${n}`;
    if (!m.screens.some((s) => s.id === id)) return id;
  }
}
