import { useEffect, useRef } from "react";
import type { FieldFacts, FieldOf, Screen } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { useBase } from "../../ui/places";
import { useBench } from "../../work/BenchContext";
import { fieldKinds, leanField } from "../../work/fields";
import { withScreen } from "../../work/setup";
import { useStep } from "../../work/StepContext";
import { lengthOf } from "../../work/typing/rows";
import { Bare } from "../../ui/Bare";
import { Quiet } from "../../ui/Quiet";
import { FieldEditor } from "./FieldEditor";
import { Dot } from "../../ui/Dot";
import css from "./FieldsPanel.module.css";

/** The field that is edited; asked counts how often it was asked for. */
export interface Opened {
  field: number;
  asked: number;
}

interface Props {
  facts: FieldFacts[];
  opened: Opened | undefined;
  onOpen: (field: number) => void;
}

/** The fields of the screen: what each shows now, the longest and the shortest that it can show, and its settings. */
export default function FieldsPanel({ facts, opened, onOpen }: Props) {
  const { screen, changeModule } = useBench();
  const fields = screen.fields ?? [];
  const panel = useRef<HTMLElement>(null);
  const base = useBase();
  const at = opened && opened.field < fields.length ? opened.field : -1;

  const set = (next: (list: FieldOf[]) => FieldOf[], tag?: string) =>
    changeModule((m) => withScreen(m, screen.id, (s) => ({ ...s, fields: next(s.fields ?? []) })), tag);
  const change = (i: number, next: Partial<FieldOf>) =>
    set(
      (list) => list.map((f, k) => (k === i ? leanField({ ...f, ...next }) : f)),
      `field ${i} ${Object.keys(next).join()}`,
    );

  // What was asked for on the glass gets the keys.
  const asked = opened?.asked;
  useEffect(() => {
    if (at < 0) return;
    const input = panel.current?.querySelector<HTMLInputElement>('[data-mark="sample"]');
    input?.focus();
    input?.select();
  }, [asked]); // eslint-disable-line react-hooks/exhaustive-deps

  return (
    <section ref={panel} className={css.panel} aria-label="Fields">
      <CursorChoice />
      {fields.length === 0 && (
        <p className={css.none}>
          A field is a place whose text changes: a tide, a time, a name. Select its cells on the glass and press{" "}
          <kbd>F2</kbd>; what stands there says what kind it is. You then see the longest value that it can show, before
          a reader does.
        </p>
      )}
      <ol className={css.list}>
        {fields.map((f, i) => {
          const fact = facts[i];
          return (
            <li key={i} className={css.field} data-open={i === at || undefined}>
              <div className={css.head}>
                <Bare className={css.name} aria-expanded={i === at} onClick={() => onOpen(i)}>
                  {f.name}
                </Bare>
                <span className={css.kind}>
                  {fieldKinds[f.kind]}, row {f.row + base}, column {f.col + base}, {f.width}{" "}
                  {f.width === 1 ? "cell" : "cells"}
                  <Shared field={f} fields={fields} />
                </span>
              </div>
              {fact && f.kind !== "cursor" ? <Extremes field={f} fact={fact} /> : <span />}
              <Quiet
                aria-label={`Take away ${f.name}`}
                title="Take it away; what was typed below it stays"
                onClick={() => set((list) => list.filter((_, k) => k !== i))}
              >
                <Icon name="bin" size={17} />
              </Quiet>
              {i === at && <FieldEditor field={f} onChange={(next) => change(i, next)} />}
            </li>
          );
        })}
      </ol>
    </section>
  );
}

/** That fields of one name and kind are one value: free text goes on from place to place, others show it in each. */
function Shared({ field, fields }: { field: FieldOf; fields: FieldOf[] }) {
  const same = fields.filter((f) => f.name === field.name && f.kind === field.kind && f.kind !== "cursor");
  if (same.length < 2) return null;
  const cells = same.reduce((n, f) => n + f.width, 0);
  return (
    <b className={css.shared}>
      {field.kind === "free"
        ? `one text over ${same.length} places, ${cells} cells`
        : `one value, shown in ${same.length} places`}
    </b>
  );
}

/** What a field shows now and in its extremes, drawn cell by cell: what does not fit stands beyond its edge. */
function Extremes({ field, fact }: { field: FieldOf; fact: FieldFacts }) {
  if (field.kind === "free")
    return (
      <>
        <Cells label="now" value={fact.now} width={field.width} />
        <p className={css.note}>
          Any text: as long as what comes. The sheet of its input says how long a message may be. Give a second place of
          free text the same name, and the text goes on there: two rows of 16 cells hold one text of 32.
        </p>
      </>
    );
  if (field.kind === "bar") return <p className={css.note}>Drawn with glyphs of its own, of any value.</p>;
  const same = fact.longest.len === fact.shortest.len;
  return (
    <div className={css.extremes}>
      <Cells label="now" value={fact.now} width={field.width} />
      <Cells label={same ? "always as long" : "longest"} value={fact.longest} width={field.width} named />
      {!same && <Cells label="shortest" value={fact.shortest} width={field.width} named />}
      {field.look?.fill === "none" && fact.shortest.shown.length < fact.longest.shown.length && (
        <Cells
          label="written over the longest"
          value={fact.shortest}
          width={field.width}
          kept={Array.from(fact.longest.shown).slice(Array.from(fact.shortest.shown).length)}
        />
      )}
      {fact.over.map((o) => (
        <p key={o.value} className={css.over}>
          Does not fit from <b>{o.value}</b> on: <code>{o.text}</code> takes {o.len} cells. The glass shows{" "}
          <code>{o.shown}</code> then.
        </p>
      ))}
    </div>
  );
}

interface CellsProps {
  label: string;
  value: FieldFacts["now"];
  width: number;
  /** Says which value it is, where that is not what is written. */
  named?: boolean;
  /** Characters of a longer value that stay behind it, as nothing clears them. */
  kept?: string[];
}

function Cells({ label, value, width, named, kept = [] }: CellsProps) {
  const own = Array.from((value.len > width ? value.text : value.shown).normalize("NFC"));
  const chars = [...own, ...kept];
  const count = Math.max(chars.length, width);
  return (
    <span className={css.case}>
      <span className={css.cells} aria-hidden="true">
        {Array.from({ length: count }, (_, i) => (
          <i key={i} data-over={i >= width || undefined} data-kept={(i >= own.length && i < chars.length) || undefined}>
            {chars[i]}
          </i>
        ))}
      </span>
      <span>
        {label}
        {named && value.value !== value.text && ` (${value.value})`}
        <span className="unseen">
          : {value.text}, {value.len} of {width} cells{kept.length > 0 && `, then ${kept.join("")} of the old value`}
        </span>
      </span>
    </span>
  );
}

/** The cell behind the text of a screen; the last of its row where that is full. */
function behind(s: Screen, cols: number): { row: number; col: number } {
  const rows = s.rows ?? [];
  const ends = Array.from({ length: Math.max(rows.length, ...(s.fields ?? []).map((f) => f.row + 1)) }, (_, row) =>
    Math.max(
      lengthOf(rows[row]?.trimEnd()),
      ...(s.fields ?? []).filter((f) => f.row === row).map((f) => f.col + f.width),
    ),
  );
  const row = Math.max(
    ends.findLastIndex((end) => end > 0),
    0,
  );
  return { row, col: Math.min(ends[row] ?? 0, cols - 1) };
}

/** How the module's cursor is left once the screen is written. */
function CursorChoice() {
  const { screen, changeModule } = useBench();
  const { cols } = useStep();
  const base = useBase();
  const kind = screen.cursor?.kind ?? "none";
  const set = (next: "none" | "line" | "block") =>
    changeModule((m) =>
      withScreen(m, screen.id, (s) => ({
        ...s,
        cursor: next === "none" ? undefined : { ...(s.cursor ?? behind(s, cols)), kind: next },
      })),
    );
  return (
    <fieldset className={css.cursor}>
      <legend>Cursor after writing</legend>
      {(["none", "line", "block"] as const).map((k) => (
        <label key={k}>
          <Dot name="cursor" checked={kind === k} onChange={() => set(k)} />{" "}
          {{ none: "none", line: "underline", block: "blinking block" }[k]}
        </label>
      ))}
      {kind !== "none" && (
        <span>
          at row {(screen.cursor?.row ?? 0) + base}, column {(screen.cursor?.col ?? 0) + base};
        </span>
      )}
      <span>
        <kbd>Alt</kbd> <kbd>U</kbd> on the glass puts it there
      </span>
    </fieldset>
  );
}
