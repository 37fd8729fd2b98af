import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Module } from "../../api/client";
import { fallQuery, type Edit, type Effect, type End, type Input, type Scene, type Show } from "../../api/plays";
import { Choice } from "../../ui/Choice";
import { Field } from "../../ui/Field";
import { Icon } from "../../ui/Icon";
import { InlineText } from "../../ui/InlineText";
import { useBase } from "../../ui/places";
import { addEnd, changeEnd, changeInput, changeScene, removeEnd } from "./edits";
import { happenings, inputTitle, sceneTitle } from "./words";
import { milliseconds, number, seconds } from "./reading";
import css from "./Sheet.module.css";

interface Props {
  module: Module;
  show: Show;
  scene: Scene;
  end: number | undefined;
  library: { key: number; name: string }[];
  change: (next: (s: Show) => Show, tag?: string) => void;
  onRemove: () => void;
  onEnd: (end: number) => void;
}

/** A scene: its screen, what ends it, what moves in it, and what is edited in it on the device. */
export function SceneSheet({ module, show, scene, end, library, change, onRemove, onEnd }: Props) {
  const { scenes = [], inputs = [] } = show;
  const set = (next: Partial<Scene>, tag?: string) => change((s) => changeScene(s, scene.id, next), tag);
  const first = (show.start ?? scenes[0]?.id) === scene.id;
  const follower = scenes[scenes.indexOf(scene) + 1] ?? scenes[0];
  return (
    <div className={css.sheet}>
      <div className={css.head}>
        <InlineText
          label="Name of the scene"
          value={scene.name ?? ""}
          placeholder={scene.id}
          strong
          onChange={(name) => set({ name })}
        />
        <button
          type="button"
          className="quiet"
          aria-label="Remove the scene"
          title="Remove the scene"
          onClick={onRemove}
        >
          <Icon name="bin" size={16} />
        </button>
      </div>
      <Choice label="Screen" value={scene.screen} onChange={(screen) => set({ screen })}>
        {module.screens.map((s, i) => (
          <option key={s.id} value={s.id}>
            {i + 1} {s.name || s.id}
          </option>
        ))}
      </Choice>
      <div className={css.switches}>
        <label>
          <input type="checkbox" checked={scene.off ?? false} onChange={(e) => set({ off: e.target.checked })} />{" "}
          display off, its text kept
        </label>
        <label>
          <input
            type="checkbox"
            checked={first}
            disabled={first}
            onChange={() => change((s) => ({ ...s, start: scene.id }))}
          />{" "}
          the show begins here
        </label>
      </div>
      <h3>It ends</h3>
      <ul className={css.ends}>
        {(scene.ends ?? []).map((e, i) => (
          <EndRow
            key={i}
            end={e}
            chosen={end === i}
            scenes={scenes}
            inputs={inputs}
            edits={Boolean(scene.edit?.field)}
            onFocus={() => onEnd(i)}
            onChange={(next, tag) => change((s) => changeEnd(s, scene.id, i, next), tag)}
            onRemove={() => change((s) => removeEnd(s, scene.id, i))}
          />
        ))}
      </ul>
      <button
        type="button"
        className="quiet"
        onClick={() => {
          change((s) => addEnd(s, scene.id, { afterMs: 2000, next: follower?.id ?? scene.id }));
          onEnd(scene.ends?.length ?? 0);
        }}
      >
        New end
      </button>
      <EffectPart module={module} scene={scene} library={library} set={set} />
      <EditPart module={module} scene={scene} inputs={inputs} set={set} change={change} />
    </div>
  );
}

interface EndProps {
  end: End;
  chosen: boolean;
  scenes: Scene[];
  inputs: Input[];
  edits: boolean;
  onFocus: () => void;
  onChange: (next: Partial<End>, tag?: string) => void;
  onRemove: () => void;
}

/** One end: a time, or what an input does, and the scene that follows. */
function EndRow({ end, chosen, scenes, inputs, edits, onFocus, onChange, onRemove }: EndProps) {
  const input = inputs.find((i) => i.id === end.input);
  const typed = end.on === "accept" || end.on === "cancel";
  const by = typed ? `:${end.on}` : (end.input ?? "");
  const on = input && (end.on ?? happenings[input.kind][0]?.on);
  return (
    <li data-chosen={chosen || undefined} onFocus={onFocus}>
      <select
        className={typed ? `entry ${css.wide}` : "entry"}
        aria-label="What ends it"
        value={by}
        onChange={(e) => {
          const v = e.target.value;
          if (v.startsWith(":"))
            onChange({ on: v.slice(1) as End["on"], input: undefined, afterMs: undefined, level: undefined });
          else if (v === "") onChange({ input: undefined, on: undefined, level: undefined, afterMs: 2000 });
          else onChange({ input: v, on: undefined, afterMs: undefined, level: undefined });
        }}
      >
        <option value="">a time</option>
        {inputs.map((i) => (
          <option key={i.id} value={i.id}>
            {inputTitle(i)}
          </option>
        ))}
        {edits && <option value=":accept">what is typed is accepted</option>}
        {edits && <option value=":cancel">it is cancelled</option>}
      </select>
      {!typed && !input && (
        <Field
          label="after, s"
          mono
          className={css.short}
          value={String((end.afterMs ?? 0) / 1000)}
          onChange={seconds((afterMs) => onChange({ afterMs }, "time"))}
        />
      )}
      {input && (happenings[input.kind].length > 1 || input.kind === "signal") && (
        <select
          className="entry"
          aria-label="What of it"
          value={on}
          onChange={(e) => onChange({ on: e.target.value as End["on"] })}
        >
          {happenings[input.kind].map((h) => (
            <option key={h.on} value={h.on}>
              {h.title}
            </option>
          ))}
        </select>
      )}
      {input?.kind === "signal" && (
        <Field
          label="level"
          mono
          className={css.short}
          value={String(end.level ?? 0)}
          onChange={number((level) => onChange({ level }))}
        />
      )}
      <span className={css.next}>
        <Icon name="right" size={14} />
        <select
          className="entry"
          aria-label="The scene that follows"
          value={end.next}
          onChange={(e) => onChange({ next: e.target.value })}
        >
          {scenes.map((s) => (
            <option key={s.id} value={s.id}>
              {sceneTitle(s)}
            </option>
          ))}
        </select>
        <button type="button" className="quiet" aria-label="Remove this end" title="Remove this end" onClick={onRemove}>
          <Icon name="close" size={14} />
        </button>
      </span>
    </li>
  );
}

interface PartProps {
  module: Module;
  scene: Scene;
  set: (next: Partial<Scene>, tag?: string) => void;
}

/** What moves while the scene lasts. */
function EffectPart({ module, scene, library, set }: PartProps & { library: { key: number; name: string }[] }) {
  const base = useBase();
  const e: Effect = scene.effect ?? {};
  const put = (next: Partial<Effect>) => set({ effect: { ...e, ...next } });
  const rows = module.screens.find((s) => s.id === scene.screen)?.rows ?? [];
  const lined = e.kind === "walk" || e.kind === "scroll";
  return (
    <>
      <h3>What moves</h3>
      <Choice
        label="Effect"
        value={e.kind ?? ""}
        onChange={(kind) => set({ effect: kind ? { ...e, kind: kind as Effect["kind"] } : undefined })}
      >
        <option value="">nothing</option>
        <option value="walk">characters walk along a row</option>
        <option value="scroll">a row’s text runs through</option>
        <option value="shift">the whole display is shifted</option>
        <option value="slots">a glyph changes in its slot</option>
      </Choice>
      {e.kind && (
        <div className={css.pair}>
          <Field
            label="a step each, ms"
            mono
            value={String(e.everyMs ?? 300)}
            onChange={milliseconds((everyMs) => put({ everyMs }), 1, 60_000)}
          />
          {lined && (
            <Field
              label="in row"
              mono
              value={String((e.row ?? 0) + base)}
              onChange={number((v) => put({ row: Math.max(v - base, 0) }))}
            />
          )}
          {lined && (
            <Field
              label="from column"
              mono
              value={String((e.col ?? 0) + base)}
              onChange={number((v) => put({ col: Math.max(v - base, 0) }))}
            />
          )}
          {lined && (
            <Field
              label="over cells"
              mono
              value={String(e.width ?? "")}
              placeholder="to the end"
              onChange={number((width) => put({ width }))}
            />
          )}
        </div>
      )}
      {lined && (
        <Field
          label={e.kind === "walk" ? "What walks" : "What runs"}
          value={e.text ?? ""}
          placeholder={e.kind === "walk" ? "a character, or a few" : rows[e.row ?? 0] || "the row’s text"}
          onChange={async (text) => {
            put({ text });
            return Promise.resolve(undefined);
          }}
        />
      )}
      {e.kind === "walk" && library.length > 0 && (
        <Choice
          label="A drawing of the library walks"
          value=""
          onChange={(key) => put({ text: String.fromCodePoint(KEY_BASE + Number(key)) })}
        >
          <option value="">choose…</option>
          {library.map((d) => (
            <option key={d.key} value={d.key}>
              {d.name}
            </option>
          ))}
        </Choice>
      )}
      {e.kind === "slots" && <Frames e={e} library={library} put={put} />}
      {e.kind && e.kind !== "slots" && (
        <label>
          <input type="checkbox" checked={e.back ?? false} onChange={(ev) => put({ back: ev.target.checked })} />{" "}
          {e.kind === "walk" ? "and back again" : "to the right"}
        </label>
      )}
    </>
  );
}

/** Characters that stand for drawings of the library begin here. */
const KEY_BASE = 0xe100;

function Frames({
  e,
  library,
  put,
}: {
  e: Effect;
  library: { key: number; name: string }[];
  put: (next: Partial<Effect>) => void;
}) {
  const glyphs = e.glyphs ?? [];
  return (
    <>
      <ol className={css.frames}>
        {glyphs.map((key, i) => (
          <li key={i}>
            {library.find((d) => d.key === key)?.name ?? `drawing ${key}`}
            <button
              type="button"
              className="quiet"
              aria-label={`Remove step ${i + 1}`}
              onClick={() => put({ glyphs: glyphs.filter((_, k) => k !== i) })}
            >
              <Icon name="close" size={14} />
            </button>
          </li>
        ))}
      </ol>
      <Choice
        label="One more; the first stands on the screen"
        value=""
        onChange={(v) => put({ glyphs: [...glyphs, Number(v)] })}
      >
        <option value="">choose…</option>
        {library.map((d) => (
          <option key={d.key} value={d.key}>
            {d.name}
          </option>
        ))}
      </Choice>
    </>
  );
}

const doings: { does: NonNullable<Edit["keys"]>[number]["does"]; title: string }[] = [
  { does: "left", title: "to the left" },
  { does: "right", title: "to the right" },
  { does: "up", title: "up" },
  { does: "down", title: "down" },
  { does: "next", title: "on, then accept" },
  { does: "accept", title: "accept" },
  { does: "cancel", title: "cancel" },
];

/** What is edited on the device while the scene lasts, and by which keys. */
function EditPart({ module, scene, inputs, set, change }: PartProps & { inputs: Input[]; change: Props["change"] }) {
  const fields = (module.screens.find((s) => s.id === scene.screen)?.fields ?? []).filter((f) =>
    ["number", "text", "choice", "free"].includes(f.kind),
  );
  const e: Edit = scene.edit ?? {};
  const put = (next: Partial<Edit>) => set({ edit: { ...e, ...next } });
  const field = fields.find((f) => f.name === e.field);
  const named = [...new Set(fields.map((f) => f.name))];
  return (
    <>
      <h3>Edited on the device</h3>
      {named.length === 0 ? (
        <p className={css.note}>The screen has no number, list or free text to edit.</p>
      ) : (
        <Choice
          label="Field"
          value={e.field ?? ""}
          onChange={(name) => set({ edit: name ? { ...e, field: name } : undefined })}
        >
          <option value="">none</option>
          {named.map((n) => (
            <option key={n}>{n}</option>
          ))}
        </Choice>
      )}
      {e.field && (
        <>
          {field?.kind === "free" && (
            <Choice
              label="A cell takes"
              value={e.takes ?? ""}
              onChange={(takes) => put({ takes: (takes || undefined) as Edit["takes"] })}
            >
              <option value="">letters, digits and signs</option>
              <option value="digits">digits</option>
              <option value="hex">hexadecimal digits</option>
              <option value="letters">letters</option>
              <option value="list">characters of a list</option>
            </Choice>
          )}
          {e.takes === "list" && (
            <Field
              label="The characters, in their order"
              mono
              value={e.list ?? ""}
              onChange={async (list) => {
                put({ list });
                return Promise.resolve(undefined);
              }}
            />
          )}
          <div className={css.keys}>
            {doings.map(({ does, title }) => {
              const key = e.keys?.find((k) => k.does === does);
              const input = inputs.find((i) => i.id === key?.input);
              const others = (e.keys ?? []).filter((k) => k.does !== does);
              return (
                <div key={does}>
                  <Choice
                    label={title}
                    value={key?.input ?? ""}
                    onChange={(v) => put({ keys: v ? [...others, { does, input: v }] : others })}
                  >
                    <option value="">–</option>
                    {inputs
                      .filter((i) => i.kind === "button" || i.kind === "signal")
                      .map((i) => (
                        <option key={i.id} value={i.id}>
                          {inputTitle(i)}
                        </option>
                      ))}
                  </Choice>
                  {key && input?.kind === "signal" && (
                    <span className={css.level}>
                      <select
                        className="entry"
                        aria-label={`${title}: above or below`}
                        value={key.on ?? "above"}
                        onChange={(ev) => put({ keys: [...others, { ...key, on: ev.target.value as "above" }] })}
                      >
                        <option value="above">above</option>
                        <option value="below">below</option>
                      </select>
                      <Field
                        label="level"
                        mono
                        value={String(key.level ?? 0)}
                        onChange={number((level) => put({ keys: [...others, { ...key, level }] }))}
                      />
                    </span>
                  )}
                </div>
              );
            })}
          </div>
          <StickPart inputs={inputs} keys={e.keys ?? []} change={change} put={(keys) => put({ keys })} />
          <div className={css.pair}>
            <Choice
              label="The cell blinks with"
              value={e.mark?.code ?? 32}
              onChange={(v) => put({ mark: { ...e.mark, code: Number(v) === 32 ? undefined : Number(v) } })}
            >
              <option value={32}>a space</option>
              <option value={95}>an underline</option>
              <option value={255}>code FF, a block in most ROMs</option>
            </Choice>
            <Field
              label="shown for, ms"
              mono
              value={String(e.mark?.onMs ?? 500)}
              onChange={milliseconds((onMs) => put({ mark: { ...e.mark, onMs } }), 1, 10_000)}
            />
            <Field
              label="marked for, ms"
              mono
              value={String(e.mark?.offMs ?? 300)}
              onChange={milliseconds((offMs) => put({ mark: { ...e.mark, offMs } }), 1, 10_000)}
            />
            <Field
              label="held: again after, ms"
              mono
              value={String(e.repeat?.afterMs ?? 500)}
              onChange={milliseconds((afterMs) => put({ repeat: { ...e.repeat, afterMs } }), 1, 10_000)}
            />
            <Field
              label="then each, ms"
              mono
              value={String(e.repeat?.everyMs ?? 150)}
              onChange={milliseconds((everyMs) => put({ repeat: { ...e.repeat, everyMs } }), 1, 10_000)}
            />
            <Field
              label="at last each, ms"
              mono
              value={String(e.repeat?.fastMs ?? 50)}
              onChange={milliseconds((fastMs) => put({ repeat: { ...e.repeat, fastMs } }), 1, 10_000)}
            />
          </div>
        </>
      )}
    </>
  );
}

type Keys = NonNullable<Edit["keys"]>;

/** A stick of two readings: where each way begins is worked out from its ends, read or reckoned from what it is fed with. */
function StickPart({
  inputs,
  keys,
  change,
  put,
}: {
  inputs: Input[];
  keys: Keys;
  change: Props["change"];
  put: (keys: Keys) => void;
}) {
  const signals = inputs.filter((i) => i.kind === "signal");
  const [fed, setFed] = useState({ supplyMV: 3300, referenceMV: 5000 });
  const [read, setRead] = useState<number[]>();
  const { data, error } = useQuery(fallQuery({ fallMs: 1000, ...fed, read }));
  const stick = data?.stick;
  if (signals.length === 0) return null;
  const use = (axis: "x" | "y", id: string) => {
    if (!stick || !id) return;
    const ways = axis === "x" ? (["left", "right"] as const) : (["up", "down"] as const);
    put([
      ...keys.filter((k) => k.does !== ways[0] && k.does !== ways[1]),
      { does: ways[0], input: id, on: "below", level: stick.low },
      { does: ways[1], input: id, on: "above", level: stick.high },
    ]);
    change((s) =>
      changeInput(s, id, {
        signal: {
          ...s.inputs?.find((i) => i.id === id)?.signal,
          start: stick.middle,
          hysteresis: stick.hysteresis,
        },
      }),
    );
  };
  const ends = stick && [stick.least, stick.middle, stick.greatest];
  return (
    <details className={css.stick}>
      <summary>A stick of two readings</summary>
      <div className={css.pair}>
        <Field
          label="fed with, V"
          mono
          value={String(fed.supplyMV / 1000)}
          onChange={number((v) => {
            setRead(undefined);
            setFed({ ...fed, supplyMV: Math.round(v * 1000) });
          })}
        />
        <Field
          label="converter’s reference, V"
          mono
          value={String(fed.referenceMV / 1000)}
          onChange={number((v) => {
            setRead(undefined);
            setFed({ ...fed, referenceMV: Math.round(v * 1000) });
          })}
        />
        {ends &&
          ["least reading", "in the middle", "greatest reading"].map((label, i) => (
            <Field
              key={label}
              label={label}
              mono
              value={String(ends[i])}
              onChange={number((v) => setRead(ends.map((was, k) => (k === i ? Math.round(v) : was))))}
            />
          ))}
      </div>
      {error && <p role="alert">{error.message}</p>}
      {stick && (
        <p className={css.note}>
          It is tilted below {stick.low} and above {stick.high}, and let go {stick.hysteresis} nearer to the middle.
        </p>
      )}
      <div className={css.pair}>
        {(["x", "y"] as const).map((axis) => (
          <Choice
            key={axis}
            label={axis === "x" ? "left and right by" : "up and down by"}
            value=""
            onChange={(id) => use(axis, id)}
          >
            <option value="">choose…</option>
            {signals.map((i) => (
              <option key={i.id} value={i.id}>
                {inputTitle(i)}
              </option>
            ))}
          </Choice>
        ))}
      </div>
    </details>
  );
}
