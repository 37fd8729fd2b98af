import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { barQuery } from "../../api/glyphs";
import { Cells } from "../../parts/dots/Cells";
import { decimal, hex } from "../../ui/numbers";
import { Choice } from "../../ui/Choice";
import { useBench } from "../../work/BenchContext";
import { reason } from "../../work/reason";
import { Count } from "./PicturePanel";
import { usePut } from "./usePut";
import { Check } from "../../ui/Check";
import { TextBox } from "../../ui/TextBox";
import css from "./MakePanel.module.css";

type Bar = Omit<Schemas["BarRequest"], "display" | "values" | "peakAt">;

/** A bar: its size, step and look are chosen; the glyphs and the codes of each value follow. */
export function BarMaker() {
  const { module } = useBench();
  const { add, put, refused } = usePut();
  const [bar, setBar] = useState<Bar>({ cells: 8, dots: 1, low: 0, high: 100 });
  const [value, setValue] = useState(62);
  const [second, setSecond] = useState(35);
  const [peak, setPeak] = useState(90);
  const lanes = bar.lanes ?? 1;
  const values = [value, second, 100 - second].slice(0, lanes);
  const { data, error } = useQuery(barQuery({ ...bar, display: module.display, values, peakAt: bar.peak ? peak : 0 }));
  const set = (next: Partial<Bar>) => setBar((b) => ({ ...b, ...next }));
  const longest = bar.vertical ? 8 : 5;
  const upwards = bar.vertical ?? false;
  const cells = data ? (upwards ? [...data.cells].reverse() : data.cells) : [];
  const cols = upwards ? 1 : bar.cells;
  const name = upwards ? "column" : bar.frame ? "progress" : "bar";
  return (
    <div className={css.maker}>
      <div className={css.settings}>
        <Choice
          label="Grows"
          value={upwards ? "up" : "right"}
          onChange={(v) => set({ vertical: v === "up", cells: v === "up" ? 2 : 8, dots: 1, frame: undefined })}
        >
          <option value="right">to the right</option>
          <option value="up">upwards</option>
        </Choice>
        <Count label="Cells" value={bar.cells} most={upwards ? 4 : 40} onChange={(n) => set({ cells: n })} />
        <Count label="Dots a step" value={bar.dots} most={longest} onChange={(dots) => set({ dots })} />
        <Count label="Dark between" value={bar.gap ?? 0} least={0} most={2} onChange={(gap) => set({ gap })} />
        <Count label="Bars a cell" value={lanes} most={3} onChange={(n) => set({ lanes: n })} />
        <Scale label="Empty at" value={bar.low} onChange={(low) => set({ low })} />
        <Scale label="Full at" value={bar.high} onChange={(high) => set({ high })} />
      </div>
      <div className={css.checks}>
        <Check checked={bar.peak ?? false} onChange={(e) => set({ peak: e.target.checked })}>
          peak mark
        </Check>
        <Check checked={bar.centre ?? false} onChange={(e) => set({ centre: e.target.checked })}>
          zero in the middle
        </Check>
        <Check
          checked={bar.frame ?? false}
          disabled={upwards || lanes > 1}
          onChange={(e) => set({ frame: e.target.checked })}
        >
          framed, for progress
        </Check>
      </div>
      <Slider label="Value" bar={bar} value={value} onChange={setValue} />
      {lanes > 1 && <Slider label="Second" bar={bar} value={second} onChange={setSecond} />}
      {bar.peak && <Slider label="Peak" bar={bar} value={peak} onChange={setPeak} />}
      {(error ?? refused) && (
        <p role="alert" className={css.fact} data-wrong>
          {refused ?? reason(error)}
        </p>
      )}
      {data && !error && (
        <>
          <div className={css.shown}>
            <Cells
              cells={cells.map((c) => c.shown)}
              cols={cols}
              dot={Math.max(2, Math.min(5, Math.floor(330 / (cols * 6))))}
              label={`The bar at ${value}`}
            />
          </div>
          <p className={css.fact} data-wrong={!data.fits || undefined} role="status">
            {data.fits
              ? `${data.steps} steps from ${data.needs} ${data.needs === 1 ? "glyph" : "glyphs"}; empty and full cells are the ROM's where it has them.`
              : `It needs ${data.needs} glyphs, and CGRAM holds ${module.display.controller.font === "5x10" ? 4 : 8}: choose longer steps, a dark dot between, fewer bars a cell, or no peak mark.`}
          </p>
          <div className={css.glyphs}>
            {data.glyphs.slice(0, 24).map((g, i) => (
              <Cells key={i} cells={[g.rows]} cols={1} dot={3} />
            ))}
          </div>
          <div className={css.actions}>
            <Button
              variant="contained"
              disabled={!data.fits}
              onClick={() =>
                put(
                  data.glyphs,
                  cells.map((c) => c),
                  cols,
                  name,
                  ["bar"],
                )
              }
            >
              Put on the glass
            </Button>
            <Button disabled={!data.fits || data.needs === 0} onClick={() => void add(data.glyphs, name, ["bar"])}>
              Add its glyphs to the library
            </Button>
          </div>
          <details className={css.table}>
            <summary>Codes of each value, glyphs in slots from 0 on</summary>
            <table>
              <thead>
                <tr>
                  <th scope="col">Step</th>
                  <th scope="col">Value</th>
                  <th scope="col">Codes{upwards ? ", from the foot" : ""}</th>
                </tr>
              </thead>
              <tbody>
                {data.table.map((r) => (
                  <tr key={r.step}>
                    <th scope="row">{r.step}</th>
                    <td>{Number(r.value.toPrecision(4))}</td>
                    <td>
                      <code>{r.codes.map((c) => hex(c).slice(2)).join(" ")}</code>
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </details>
        </>
      )}
    </div>
  );
}

function Slider({
  label,
  bar,
  value,
  onChange,
}: {
  label: string;
  bar: Bar;
  value: number;
  onChange: (n: number) => void;
}) {
  return (
    <label className={css.slider}>
      {label}
      <input
        type="range"
        min={bar.low}
        max={bar.high}
        step={(bar.high - bar.low) / 200 || 1}
        value={value}
        onChange={(e) => onChange(Number(e.target.value))}
      />
      <output>{Number(value.toPrecision(4))}</output>
    </label>
  );
}

/** An end of the scale; what is no number yet stays typed. */
function Scale({ label, value, onChange }: { label: string; value: number; onChange: (n: number) => void }) {
  const [draft, setDraft] = useState<string>();
  return (
    <label className={css.fact}>
      {label}
      <TextBox
        style={{ width: "100%", color: "var(--chalk)" }}
        inputMode="decimal"
        value={draft ?? String(value)}
        aria-invalid={draft !== undefined && !Number.isFinite(Number(draft)) ? true : undefined}
        onChange={(e) => {
          setDraft(e.target.value);
          const n = decimal(e.target.value);
          if (e.target.value.trim() !== "" && Number.isFinite(n)) onChange(n);
        }}
        onBlur={() => setDraft(undefined)}
      />
    </label>
  );
}
