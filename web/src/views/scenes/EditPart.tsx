import type { Module } from "../../api/client";
import type { Edit, Input, Scene, Show } from "../../api/plays";
import { Choice } from "../../ui/Choice";
import { Field } from "../../ui/Field";
import { milliseconds, number } from "./reading";
import { StickPart } from "./StickPart";
import { inputTitle } from "./words";
import css from "./Sheet.module.css";

export interface PartProps {
  module: Module;
  scene: Scene;
  set: (next: Partial<Scene>, tag?: string) => void;
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
export function EditPart({ module, scene, inputs, set, change }: PartProps & { inputs: Input[]; change: Change }) {
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
              <option value="ascii">all printable ASCII</option>
              <option value="rom">all that this ROM can show</option>
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

/** Changes a show. */
export type Change = (next: (s: Show) => Show, tag?: string) => void;
