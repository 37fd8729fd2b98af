import type { Effect } from "../../api/plays";
import { Choice } from "../../ui/Choice";
import { Field } from "../../ui/Field";
import { Icon } from "../../ui/Icon";
import { useBase } from "../../ui/places";
import type { PartProps } from "./EditPart";
import { milliseconds, number } from "./reading";
import css from "./Sheet.module.css";

/** What moves while the scene lasts. */
export function EffectPart({ module, scene, library, set }: PartProps & { library: { key: number; name: string }[] }) {
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
