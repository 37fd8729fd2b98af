import type { Screen } from "../../api/client";
import type { Effect } from "../../api/plays";
import { Cells } from "../../parts/dots/Cells";
import { Choice } from "../../ui/Choice";
import { Field } from "../../ui/Field";
import { Icon } from "../../ui/Icon";
import { useBase } from "../../ui/places";
import { charOfKey, chars } from "../../work/typing/rows";
import { Drawings, spelled, unspelled, type Drawing } from "./Drawings";
import type { PartProps } from "./EditPart";
import { NumberField } from "../../ui/NumberField";
import { Check } from "../../ui/Check";
import { Quiet } from "../../ui/Quiet";
import css from "./Sheet.module.css";

/** What moves while the scene lasts. */
export function EffectPart({ module, scene, library, set }: PartProps & { library: Drawing[] }) {
  const base = useBase();
  const e: Effect = scene.effect ?? {};
  const put = (next: Partial<Effect>) => set({ effect: { ...e, ...next } });
  const screen = module.screens.find((s) => s.id === scene.screen);
  const rows = screen?.rows ?? [];
  const lined = e.kind === "walk" || e.kind === "scroll";
  return (
    <>
      <h3>What moves</h3>
      <Choice
        label="Effect"
        value={e.kind ?? ""}
        onChange={(kind) => {
          const begun = kind === "walk" && !e.text ? { ...e, ...walker(screen) } : e;
          set({ effect: kind ? { ...begun, kind: kind as Effect["kind"] } : undefined });
        }}
      >
        <option value="">nothing</option>
        <option value="walk">characters walk along a row</option>
        <option value="scroll">a row’s text runs through</option>
        <option value="shift">the whole display is shifted</option>
        <option value="slots">a glyph changes in its slot</option>
      </Choice>
      {e.kind && (
        <div className={css.pair}>
          <NumberField
            label="a step each, ms"
            value={e.everyMs ?? 300}
            whole
            from={1}
            to={60_000}
            onChange={(everyMs) => put({ everyMs })}
          />
          {lined && (
            <NumberField
              label="in row"
              value={(e.row ?? 0) + base}
              whole
              from={base}
              to={63 + base}
              onChange={(v) => put({ row: v - base })}
            />
          )}
          {lined && (
            <NumberField
              label="from column"
              value={(e.col ?? 0) + base}
              whole
              from={base}
              to={399 + base}
              onChange={(v) => put({ col: v - base })}
            />
          )}
          {lined && (
            <NumberField
              label="over cells"
              value={e.width}
              whole
              from={0}
              to={80}
              placeholder="to the end"
              onEmpty={() => put({ width: undefined })}
              onChange={(width) => put({ width })}
            />
          )}
        </div>
      )}
      {lined && (
        <Field
          label={e.kind === "walk" ? "What walks" : "What runs"}
          value={spelled(e.text ?? "", library)}
          placeholder={
            e.kind === "walk" ? "a character, or a few; a code as \\x07" : rows[e.row ?? 0] || "the row’s text"
          }
          onChange={async (typed) => {
            const text = unspelled(typed, library);
            const empty = e.kind === "walk" && text === "";
            if (!empty) put({ text });
            return Promise.resolve(empty ? "Say what walks: a character, or a few." : undefined);
          }}
        />
      )}
      {e.kind === "walk" && library.length > 0 && (
        <Drawings
          label="A drawing of the library walks"
          library={library}
          onPick={(key) => put({ text: charOfKey(key) })}
        />
      )}
      {e.kind === "slots" && <Frames e={e} library={library} put={put} />}
      {e.kind && e.kind !== "slots" && (
        <Check checked={e.back ?? false} onChange={(ev) => put({ back: ev.target.checked })}>
          {e.kind === "walk" ? "and back again" : "to the right"}
        </Check>
      )}
    </>
  );
}

/** What walks where nothing is said: the character under the cursor, else the first of a row without fields. */
function walker(screen: Screen | undefined): Partial<Effect> {
  const { rows = [], cursor, fields = [] } = screen ?? {};
  const free = rows.map((_, row) => !fields.some((f) => f.row === row));
  const at = cursor?.kind && cursor.kind !== "none" && free[cursor.row ?? 0] ? (cursor.row ?? 0) : free.indexOf(true);
  const row = chars(rows[at]);
  const under = cursor && (cursor.row ?? 0) === at ? row[cursor.col ?? 0] : undefined;
  const text = under?.trim() ? under : (row.find((c) => c.trim()) ?? "*");
  return at > 0 ? { text, row: at } : { text };
}

function Frames({ e, library, put }: { e: Effect; library: Drawing[]; put: (next: Partial<Effect>) => void }) {
  const glyphs = e.glyphs ?? [];
  return (
    <>
      <ol className={css.frames}>
        {glyphs.map((key, i) => (
          <li key={i}>
            <Cells cells={[library.find((d) => d.key === key)?.rows ?? []]} cols={1} dot={2} />
            {library.find((d) => d.key === key)?.name ?? `drawing ${key}`}
            <Quiet
              aria-label={`Remove step ${i + 1}`}
              onClick={() => put({ glyphs: glyphs.filter((_, k) => k !== i) })}
            >
              <Icon name="close" size={14} />
            </Quiet>
          </li>
        ))}
      </ol>
      <Drawings
        label="One more; the first stands on the screen"
        library={library}
        onPick={(key) => put({ glyphs: [...glyphs, key] })}
      />
    </>
  );
}
