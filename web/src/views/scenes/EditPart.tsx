import type { Module } from "../../api/client";
import type { Edit, Input, Scene, Show } from "../../api/plays";
import { Choice } from "../../ui/Choice";
import { Field } from "../../ui/Field";
import { StickPart } from "./StickPart";
import { inputTitle } from "../../work/showWords";
import { List } from "../../ui/List";
import { NumberField } from "../../ui/NumberField";
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
          <Keys inputs={inputs} keys={e.keys ?? []} put={(keys) => put({ keys })} />
          <StickPart inputs={inputs} keys={e.keys ?? []} change={change} put={(keys) => put({ keys })} />
          <Rhythm edit={e} put={put} />
        </>
      )}
    </>
  );
}

type Key = NonNullable<Edit["keys"]>[number];

/** Which input does what. */
function Keys({ inputs, keys, put }: { inputs: Input[]; keys: Key[]; put: (keys: Key[]) => void }) {
  return (
    <div className={css.keys}>
      {doings.map(({ does, title }) => {
        const key = keys.find((k) => k.does === does);
        const input = inputs.find((i) => i.id === key?.input);
        const others = keys.filter((k) => k.does !== does);
        return (
          <div key={does}>
            <Choice
              label={title}
              value={key?.input ?? ""}
              onChange={(v) => put(v ? [...others, { does, input: v }] : others)}
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
                <List
                  aria-label={`${title}: above or below`}
                  value={key.on ?? "above"}
                  onChange={(ev) => put([...others, { ...key, on: ev.target.value as "above" }])}
                >
                  <option value="above">above</option>
                  <option value="below">below</option>
                </List>
                <NumberField
                  label="level"
                  value={key.level ?? 0}
                  onChange={(level) => put([...others, { ...key, level }])}
                />
              </span>
            )}
          </div>
        );
      })}
    </div>
  );
}

/** How a cell is marked while it is edited, and how a key that is held repeats. */
function Rhythm({ edit: e, put }: { edit: Edit; put: (next: Partial<Edit>) => void }) {
  return (
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
      <NumberField
        label="shown for, ms"
        value={e.mark?.onMs ?? 500}
        whole
        from={1}
        to={10_000}
        onChange={(onMs) => put({ mark: { ...e.mark, onMs } })}
      />
      <NumberField
        label="marked for, ms"
        value={e.mark?.offMs ?? 300}
        whole
        from={1}
        to={10_000}
        onChange={(offMs) => put({ mark: { ...e.mark, offMs } })}
      />
      <NumberField
        label="held: again after, ms"
        value={e.repeat?.afterMs ?? 500}
        whole
        from={1}
        to={10_000}
        onChange={(afterMs) => put({ repeat: { ...e.repeat, afterMs } })}
      />
      <NumberField
        label="then each, ms"
        value={e.repeat?.everyMs ?? 150}
        whole
        from={1}
        to={10_000}
        onChange={(everyMs) => put({ repeat: { ...e.repeat, everyMs } })}
      />
      <NumberField
        label="at last each, ms"
        value={e.repeat?.fastMs ?? 50}
        whole
        from={1}
        to={10_000}
        onChange={(fastMs) => put({ repeat: { ...e.repeat, fastMs } })}
      />
    </div>
  );
}

/** Changes a show. */
export type Change = (next: (s: Show) => Show, tag?: string) => void;
