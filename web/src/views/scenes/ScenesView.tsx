import { useCallback, useMemo, useState } from "react";
import type { Finding, Module } from "../../api/client";
import type { editShow, Input, Scene, Show } from "../../api/plays";
import { Findings } from "../../parts/findings/Findings";
import { Tabs } from "../../ui/Tabs";
import { useRested } from "../../ui/useRested";
import { pressThere } from "../../api/realTable";
import { useBench } from "../../work/BenchContext";
import { useRealTable } from "../../work/useRealTable";
import { Console } from "./Console";
import { addEnd, changeEnd, removeEnd } from "./edits";
import { InputSheet } from "./InputSheet";
import { SceneMap, type Choice } from "./SceneMap";
import { SceneSheet } from "./SceneSheet";
import { Stage } from "./Stage";
import { TimeLine } from "./TimeLine";
import { Transport } from "./Transport";
import { usePlay } from "../../work/usePlay";
import { useShowEdits } from "./useShowEdits";
import { kindTitles, sceneTitle } from "../../work/showWords";
import { useShortcut } from "../../ui/shortcuts";
import { Term } from "../../ui/Term";
import { Quiet } from "../../ui/Quiet";
import css from "./ScenesView.module.css";

type Sheet = (typeof sheets)[number]["id"];

const sheets = [
  { id: "scene", title: "Scene" },
  { id: "input", title: "Input" },
  { id: "found", title: "Findings" },
] as const;

/** What is shown when: the scenes as a map and as a time line, the inputs to work by hand, and all of it played. */
export default function ScenesView() {
  const { bench, module } = useBench();
  const { refused, change, edit, addGroup } = useShowEdits();
  const [whole, setWhole] = useState(false);
  const rested = useRested(bench, module.id);
  const here = rested.modules.findIndex((m) => m.id === module.id);
  const modules = useMemo(
    () => (whole ? rested.modules.map((_, i) => i) : [Math.max(here, 0)]),
    [whole, here, rested.modules],
  );
  const play = usePlay(rested, modules);
  const { table, by, drives } = useRealTable();
  const show: Show = module.show ?? {};
  const { scenes = [], inputs = [], feeds = [] } = show;
  const start = show.start ?? scenes[0]?.id ?? "";
  const [chosen, choose] = useState<Choice>();
  const [input, setInput] = useState<string>();
  const [sheet, setSheet] = useState<Sheet>("scene");
  const [judged, setJudged] = useState<Finding[]>([]);
  const part = play.parts.find((p) => p.module === module.id);
  const current = part && scenes[part.state.scene];
  const editing = [current, ...scenes].find((s) => s?.edit?.field && s.edit.keys?.length);
  const found = [...(part?.findings ?? []), ...judged];
  const scene = scenes.find((s) => s.id === chosen?.scene) ?? scenes.find((s) => s.id === start);
  const held = inputs.find((i) => i.id === input) ?? inputs[0];
  const pick = (c: Choice) => {
    choose(c);
    setSheet("scene");
  };
  const { toggle, step } = play;
  useShortcut(
    "show",
    useCallback((key) => (key === "F8" ? toggle() : step()), [toggle, step]),
  );

  return (
    <div className={css.view}>
      <Transport
        play={play}
        module={module}
        whole={whole}
        onWhole={setWhole}
        bench={rested}
        onJudged={(f) => {
          setJudged(f);
          setSheet("found");
        }}
      />
      {refused && (
        <p className={css.error} role="alert">
          {refused}
        </p>
      )}
      {play.error && (
        <p className={css.error} role="alert">
          {play.error}
        </p>
      )}
      <div className={css.desk}>
        <div className={css.left}>
          <div className={css.top}>
            <Stage parts={play.parts} modules={whole ? bench.modules : [module]} />
            <Console
              inputs={inputs}
              feeds={feeds}
              fields={module.screens.flatMap((s) => s.fields ?? [])}
              state={part?.state}
              edit={editing?.edit}
              keys={(part?.keys ?? []).filter((k) => scenes[k.scene] === editing)}
              chosen={sheet === "input" ? held?.id : undefined}
              onChoose={(id) => {
                setInput(id);
                setSheet("input");
              }}
              onHappen={(e) => {
                const of = inputs.find((i) => i.id === e.input);
                play.happen(e, of?.kind === "button" ? (of.button?.debounceMs ?? 20) : undefined);
                if (drives && table?.playing?.module === here)
                  void pressThere(by, e.input, { value: e.value, text: e.text }).catch(() => undefined); // its state says what is wrong
              }}
              onAdd={(kind) => {
                setSheet("input");
                edit({ do: "add-input", kind, name: kindTitles[kind] }, setInput);
              }}
              onAddGroup={(group) => {
                setSheet("input");
                addGroup(group);
              }}
            />
          </div>
          {scenes.length === 0 ? (
            <Empty
              module={module}
              onBegin={() => edit({ do: "turn" })}
              onOne={() =>
                edit({ do: "add-scene", screenId: module.screens[0]?.id, name: module.screens[0]?.name || "First" })
              }
            />
          ) : (
            <div className={css.map}>
              <SceneMap
                scenes={scenes}
                inputs={inputs}
                start={start}
                current={current?.id}
                choice={sheet === "scene" ? (chosen ?? (scene && { scene: scene.id })) : undefined}
                findings={found}
                onChoose={pick}
                onJoin={(from, to) => {
                  change((s) => addEnd(s, from, { afterMs: 2000, next: to }));
                  pick({ scene: from, end: scenes.find((s) => s.id === from)?.ends?.length ?? 0 });
                }}
                onRemove={(c) => {
                  const { end } = c;
                  if (end === undefined) edit({ do: "remove-scene", id: c.scene });
                  else change((s) => removeEnd(s, c.scene, end));
                  choose(end === undefined ? undefined : { scene: c.scene });
                }}
              />
              <Quiet
                className={css.add}
                onClick={() => {
                  const screenId = scene?.screen ?? module.screens[0]?.id ?? "";
                  edit({ do: "add-scene", screenId, name: `Scene ${scenes.length + 1}` }, (id) => pick({ scene: id }));
                }}
              >
                New scene
              </Quiet>
            </div>
          )}
          {scenes.length > 0 && (
            <TimeLine
              scenes={scenes}
              inputs={inputs}
              part={part}
              events={play.events}
              now={play.now}
              chosen={scene?.id}
              onChoose={(id) => pick({ scene: id })}
              onTime={(id, end, afterMs) => change((s) => changeEnd(s, id, end, { afterMs }), `time ${id} ${end}`)}
            />
          )}
        </div>
        <Side
          sheet={sheet}
          onSheet={setSheet}
          scene={scene}
          end={chosen?.scene === scene?.id ? chosen?.end : undefined}
          input={held}
          found={found}
          change={change}
          edit={edit}
          onChoose={choose}
          onPick={pick}
        />
      </div>
    </div>
  );
}

interface SideProps {
  sheet: Sheet;
  onSheet: (sheet: Sheet) => void;
  scene: Scene | undefined;
  /** Which of its ends is looked at. */
  end: number | undefined;
  input: Input | undefined;
  found: Finding[];
  change: (next: (s: Show) => Show, tag?: string) => void;
  edit: (what: Parameters<typeof editShow>[2]) => void;
  onChoose: (c: Choice | undefined) => void;
  onPick: (c: Choice) => void;
}

/** What is looked at: a scene, an input, or what was found. */
function Side({ sheet, onSheet, scene, end, input: held, found, change, edit, onChoose, onPick }: SideProps) {
  const { bench, module } = useBench();
  const show: Show = module.show ?? {};
  const { scenes = [] } = show;
  return (
    <aside className={css.side} aria-label="What is looked at">
      <Tabs label="What is looked at" tabs={sheets} value={sheet} onChange={onSheet} />
      <div className={css.sheet}>
        {sheet === "scene" &&
          (scene ? (
            <SceneSheet
              key={scene.id}
              module={module}
              show={show}
              scene={scene}
              end={end}
              library={(bench.glyphs ?? []).map((d) => ({
                key: d.key ?? 0,
                name: d.name ?? `drawing ${d.key}`,
                rows: d.rows ?? [],
              }))}
              change={change}
              onRemove={() => {
                edit({ do: "remove-scene", id: scene.id });
                onChoose(undefined);
              }}
              onEnd={(at) => onChoose({ scene: scene.id, end: at })}
            />
          ) : (
            <p className={css.note}>A scene is a screen and what ends it. None is there yet.</p>
          ))}
        {sheet === "input" &&
          (held ? (
            <InputSheet
              key={held.id}
              module={module}
              show={show}
              input={held}
              change={change}
              onRemove={() => edit({ do: "remove-input", id: held.id })}
            />
          ) : (
            <p className={css.note}>Inputs are what a show listens to. None lies on the table yet.</p>
          ))}
        {sheet === "found" && (
          <div className={css.found}>
            <Findings
              findings={found}
              about="the show"
              none="None: every scene is reached, no end is in the way of another."
              onPlace={(f) => {
                const at = (f.path ?? "").match(/\/show\/scenes\/(\d+)(?:\/ends\/(\d+))?/);
                const s = at && scenes[Number(at[1])];
                return s
                  ? {
                      name: sceneTitle(s),
                      go: () => onPick(at[2] === undefined ? { scene: s.id } : { scene: s.id, end: Number(at[2]) }),
                    }
                  : undefined;
              }}
            />
          </div>
        )}
      </div>
    </aside>
  );
}

function Empty({ module, onBegin, onOne }: { module: Module; onBegin: () => void; onOne: () => void }) {
  const n = module.screens.length;
  return (
    <section className={css.empty} aria-label="No scenes yet">
      <h2>What is shown when?</h2>
      <p>
        A <Term of="scene" /> is a screen and what ends it: a time, a button, a message, a level. Scenes follow each
        other; here they are played at their real speed, and the program that is exported plays the same.
      </p>
      <span>
        {n > 1 && <Quiet onClick={onBegin}>Turn over all {n} screens, 4 s each</Quiet>}
        <Quiet onClick={onOne}>Begin with one scene</Quiet>
      </span>
    </section>
  );
}
