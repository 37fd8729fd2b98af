import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { type ReadGlyphs, type Schemas } from "../../api/client";
import { readGlyphs, writtenQuery } from "../../api/glyphs";
import { Choice } from "../../ui/Choice";
import { Copy } from "../../ui/Copy";
import { tall, trimmed, type Sheet, type Target } from "../../work/glyphs";
import { reason } from "../../work/reason";
import { Quiet } from "../../ui/Quiet";
import { useGlyphEdits } from "./useGlyphEdits";
import { TextBox } from "../../ui/TextBox";
import css from "./RowText.module.css";

interface Props {
  sheet: Sheet;
  height: number;
  onSet: (cells: number[][]) => void;
  onChoose: (t: Target) => void;
}

type Form = Schemas["WriteGlyphsRequest"]["to"];

const forms: { id: Form; title: string }[] = [
  { id: "c", title: "C" },
  { id: "python", title: "Python" },
  { id: "hex", title: "Hex line" },
  { id: "bits", title: "Binary" },
  { id: "bdf", title: "BDF font" },
  { id: "pbm", title: "PBM picture" },
  { id: "json", title: "JSON" },
];

/** The glyph as the text of a program, both ways: what is typed or pasted there is read, whatever its form. */
export function RowText({ sheet, height, onSet, onChoose }: Props) {
  const { edit, refused } = useGlyphEdits();
  const [form, setForm] = useState<Form>("c");
  const [draft, setDraft] = useState<string>();
  const [read, setRead] = useState<ReadGlyphs>();
  const glyphs = sheet.cells.map((rows, i) => ({
    name: sheet.cells.length > 1 ? `${sheet.name} ${i + 1}` : sheet.name,
    rows: trimmed(rows),
  }));
  const { data: written } = useQuery(writtenQuery(glyphs, form));
  const take = async (text: string) => {
    setDraft(text);
    if (text.trim() === "") {
      setRead(undefined);
      return;
    }
    try {
      const got = await readGlyphs({ text });
      setRead(got);
      if (!got.error && got.glyphs.length === sheet.cells.length) onSet(got.glyphs.map((g) => tall(g.rows, height)));
    } catch (e) {
      setRead({ glyphs: [], error: { what: reason(e) } });
    }
  };
  const text = draft ?? written?.text ?? "";
  const wrong = read?.error;
  const many = read && !wrong && read.glyphs.length !== sheet.cells.length ? read.glyphs : undefined;
  const keep = async () => {
    if (!many) return;
    const made = await edit({
      do: "add",
      drawings: many.map((g, i) => ({ name: g.name || `pasted ${i + 1}`, rows: g.rows })),
    });
    if (!made) return;
    setDraft(undefined);
    setRead(undefined);
    if (made.keys?.[0]) onChoose({ kind: "drawing", key: made.keys[0] });
  };
  return (
    <section className={css.text} aria-label="Rows as text">
      <header>
        <h2>Rows as text</h2>
        <div className={css.form}>
          <Choice label="Form" value={form} onChange={(v) => setForm(v as Form)}>
            {forms.map((f) => (
              <option key={f.id} value={f.id}>
                {f.title}
              </option>
            ))}
          </Choice>
        </div>
        <Copy what="the rows as text" text={written?.text ?? ""}>
          Copy
        </Copy>
        {draft !== undefined && (
          <Quiet
            onClick={() => {
              setDraft(undefined);
              setRead(undefined);
            }}
          >
            Back to the dots
          </Quiet>
        )}
      </header>
      <TextBox
        aria-label="Rows as text, in any form"
        aria-invalid={wrong ? true : undefined}
        spellCheck={false}
        rows={Math.min(Math.max(text.split("\n").length, 5), 12)}
        value={text}
        onFocus={(e) => draft === undefined && e.currentTarget.select()}
        onChange={(e) => void take(e.target.value)}
      />
      {wrong && (
        <div role="alert" className={css.wrong}>
          {wrong.line ? (
            <>
              <b>
                Line {wrong.line}, column {wrong.col}:
              </b>{" "}
              {wrong.what}
              <pre aria-hidden="true">
                {text.split("\n")[wrong.line - 1]?.slice(0, 90)}
                {"\n"}
                {" ".repeat(Math.min((wrong.col ?? 1) - 1, 90))}▲
              </pre>
            </>
          ) : (
            wrong.what
          )}
        </div>
      )}
      {many && (
        <p className={css.many} role="status">
          Read as {read?.as}: {many.length} {many.length === 1 ? "glyph" : "glyphs"}, and the desk has{" "}
          {sheet.cells.length} {sheet.cells.length === 1 ? "cell" : "cells"}.{" "}
          <Quiet onClick={() => void keep()}>Add {many.length === 1 ? "it" : "them"} to the library</Quiet>
        </p>
      )}
      {refused && <p role="alert">{refused}</p>}
      <p className={css.hint} role="status">
        {read && !wrong && !many
          ? `Read as ${read.as}.`
          : "Paste rows of any form here: 0b01110, B01110, 0x0E, 0Eh, 14, an array of C or Python, lines of dots."}
      </p>
    </section>
  );
}
