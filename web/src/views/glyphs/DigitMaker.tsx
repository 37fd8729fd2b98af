import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { digitsQuery } from "../../api/glyphs";
import { Cells } from "../../parts/dots/Cells";
import { Choice } from "../../ui/Choice";
import { useBench } from "../../work/BenchContext";
import { reason } from "../../work/reason";
import { usePut } from "./usePut";
import { TextBox } from "../../ui/TextBox";
import css from "./MakePanel.module.css";

type Style = Schemas["DigitsRequest"]["style"];

/** Large digits from at most eight glyphs. */
export function DigitMaker() {
  const { module } = useBench();
  const { put, refused } = usePut();
  const [size, setSize] = useState("2x2");
  const [style, setStyle] = useState<Style>("slab");
  const [number, setNumber] = useState("32");
  const [cols = 2, rows = 2] = size.split("x").map(Number);
  const { data, error } = useQuery(digitsQuery({ display: module.display, cols, rows, style }));
  const wrong = !/^\d{1,9}$/.test(number);
  const write = () => {
    if (!data || wrong) return;
    const digits = Array.from(number, (d) => data.digits[Number(d)]?.cells ?? []);
    const blank = { glyph: -1, code: 32, wanted: [], shown: [], changed: 0 };
    // row by row over all digits, a blank column between two of three cells
    const gap = cols === 3 ? [blank] : [];
    const cells = Array.from({ length: rows }, (_, row) =>
      digits.flatMap((d, i) => [...(i > 0 ? gap : []), ...d.slice(row * cols, (row + 1) * cols)]),
    );
    put(data.glyphs, cells.flat(), cells[0]?.length ?? 1, `${style} ${size}`, ["digit"]);
  };
  return (
    <div className={css.maker}>
      <div className={css.settings}>
        <Choice label="Cells a digit" value={size} onChange={setSize}>
          <option value="2x2">2 × 2</option>
          <option value="2x3">2 × 3</option>
          <option value="3x4">3 × 4</option>
        </Choice>
        <Choice label="Style" value={style} onChange={(v) => setStyle(v as Style)}>
          <option value="slab">slab</option>
          <option value="round">round</option>
          <option value="fine">fine</option>
        </Choice>
        <label className={css.fact}>
          Number
          <TextBox
            style={{ width: "100%", color: "var(--chalk)" }}
            inputMode="numeric"
            value={number}
            aria-invalid={wrong || undefined}
            onChange={(e) => setNumber(e.target.value.trim())}
          />
        </label>
      </div>
      {(error ?? refused) && (
        <p role="alert" className={css.fact} data-wrong>
          {refused ?? reason(error)}
        </p>
      )}
      {data && !error && (
        <>
          <div className={css.digits}>
            {data.digits.map((d, n) => (
              <Cells
                key={n}
                cells={d.cells.map((c) => c.shown)}
                cols={cols}
                dot={cols === 3 ? 2.6 : 3.6}
                label={`${n}`}
              />
            ))}
          </div>
          <p className={css.fact} role="status">
            {data.glyphs.length} {data.glyphs.length === 1 ? "glyph" : "glyphs"} and the ROM.{" "}
            {data.changed === 0
              ? "Every dot is as drawn."
              : `${data.changed} dots of all ten are not as drawn, as eight slots do not hold them; every digit is nearer to itself than to another by ${data.apart} dots at least.`}
          </p>
          <div className={css.actions}>
            <Button variant="contained" disabled={wrong} onClick={write}>
              Put {wrong ? "it" : number} on the glass
            </Button>
          </div>
          {wrong && <p className={css.fact}>Digits only, nine at most.</p>}
        </>
      )}
    </div>
  );
}
