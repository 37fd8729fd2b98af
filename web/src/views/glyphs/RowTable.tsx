import { useState } from "react";
import { digits } from "../../ui/numbers";
import type { Sheet } from "../../work/glyphs";
import { TextBox } from "../../ui/TextBox";
import css from "./RowTable.module.css";

interface Props {
  of: Sheet;
  /** The cell whose rows are shown. */
  cell: number;
  onSet: (row: number, value: number) => void;
}

const bases = [
  { title: "Binary", base: 2, form: /^(0b)?[01]{1,5}$/i, text: (v: number) => v.toString(2).padStart(5, "0") },
  { title: "Hex", base: 16, form: /^(0x)?[01]?[0-9a-f]$/i, text: digits },
  { title: "Decimal", base: 10, form: /^\d{1,2}$/, text: String },
];

/** What a text says in a base; NaN where it is no row of five dots. */
function rowOf(text: string, { form, base }: (typeof bases)[number]): number {
  const n = form.test(text) ? parseInt(text.replace(/^0[bx]/i, ""), base) : NaN;
  return n <= 31 ? n : NaN;
}

/** The rows of a cell as numbers in three bases; each can be typed over. */
export function RowTable({ of, cell, onSet }: Props) {
  const rows = of.cells[cell] ?? [];
  const [draft, setDraft] = useState<{ at: string; text: string }>();
  return (
    <table className={css.rows}>
      <caption>
        {of.cells.length > 1
          ? `Rows of cell ${(cell % of.cols) + 1}, ${Math.floor(cell / of.cols) + 1}`
          : "Rows, top first"}
      </caption>
      <thead>
        <tr>
          <th scope="col">Row</th>
          {bases.map((b) => (
            <th key={b.base} scope="col">
              {b.title}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map((v, row) => (
          <tr key={row}>
            <th scope="row">{row + 1}</th>
            {bases.map((b) => {
              const at = `${cell} ${row} ${b.base}`;
              const text = draft?.at === at ? draft.text : b.text(v);
              const wrong = Number.isNaN(rowOf(text, b));
              return (
                <td key={b.base}>
                  <TextBox
                    aria-label={`Row ${row + 1}, ${b.title.toLowerCase()}`}
                    aria-invalid={wrong || undefined}
                    title={wrong ? "Five dots: 0–31, 0x00–0x1F, 00000–11111" : undefined}
                    size={b.base === 2 ? 5 : 2}
                    value={text}
                    onChange={(e) => {
                      const next = e.target.value.trim();
                      setDraft({ at, text: next });
                      const n = rowOf(next, b);
                      if (!Number.isNaN(n)) onSet(row, n);
                    }}
                    onBlur={() => setDraft(undefined)}
                  />
                </td>
              );
            })}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
