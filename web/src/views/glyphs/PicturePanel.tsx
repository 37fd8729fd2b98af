import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import type { CutPicture, Schemas } from "../../api/client";
import { cutQuery } from "../../api/glyphs";
import { Cells } from "../../parts/dots/Cells";
import { Choice } from "../../ui/Choice";
import { useDrop } from "../../ui/useDrop";
import { useBench } from "../../work/BenchContext";
import { heightOf, sheetOf, type Sheet, type Target } from "../../work/glyphs";
import { reason } from "../../work/reason";
import { base64Of } from "./files";
import { Check } from "../../ui/Check";
import { useGlyphEdits } from "./useGlyphEdits";
import { TextBox } from "../../ui/TextBox";
import css from "./PicturePanel.module.css";

type Request = Schemas["CutRequest"];

/** A picture, dropped, pasted or chosen, cut into the glyphs of a block of cells; what changes is shown before it is taken. */
export function PicturePanel({ target, onChoose }: { target: Target; onChoose: (t: Target) => void }) {
  const { bench, module } = useBench();
  const { edit, refused } = useGlyphEdits();
  const file = useRef<HTMLInputElement>(null);
  const [source, setSource] = useState<{ name: string; data: string }>();
  const tall = heightOf(module) > 8;
  const most = tall ? 4 : 8;
  const [cut, setCut] = useState<Omit<Request, "display" | "data">>({
    block: { cols: 4, rows: tall ? 1 : 2, tall },
    slots: most,
    threshold: 128,
  });
  const { data: result, error } = useQuery(
    cutQuery({ ...cut, block: { ...cut.block, tall }, display: module.display, data: source?.data ?? "" }),
  );
  const take = async (files: FileList | File[] | null | undefined) => {
    const f = Array.from(files ?? [])[0];
    if (f) setSource({ name: f.name.replace(/\.\w+$/, "") || "picture", data: await base64Of(f) });
  };
  // A picture pasted anywhere in the view lands here; text goes where the caret is.
  useEffect(() => {
    const onPaste = (e: ClipboardEvent) => {
      const files = e.clipboardData?.files;
      if (files && files.length > 0) {
        e.preventDefault();
        void take(files);
      }
    };
    window.addEventListener("paste", onPaste);
    return () => window.removeEventListener("paste", onPaste);
  }, []);
  const onDesk = target.kind === "picture" ? sheetOf(bench, module, target) : undefined;
  /** The picture on the desk, to be merged where it needs too many glyphs. */
  const fromDesk = (sheet: Sheet) => {
    setSource({ name: sheet.name, data: btoa(bitmapOf(sheet)) });
    setCut((c) => ({
      ...c,
      block: { cols: sheet.cols, rows: sheet.rows, tall },
      gaps: undefined,
      dither: undefined,
      invert: undefined,
      threshold: 128,
    }));
  };
  const set = (next: Partial<typeof cut>) => setCut((c) => ({ ...c, ...next }));
  const keep = async (shown: CutPicture) => {
    const { cols } = cut.block;
    const drawings = shown.cells.map((c, i) => ({
      name: "",
      rows: c.shown,
      part: { picture: "picture", col: i % cols, row: Math.floor(i / cols) },
    }));
    const made = await edit({ do: "frame", name: source?.name, drawings });
    if (made?.picture) onChoose({ kind: "picture", name: made.picture });
  };
  const { over, drops } = useDrop((files) => void take(files));
  return (
    <section className={css.picture} aria-label="Picture">
      <div className={css.drop} data-over={over || undefined} {...drops}>
        <p>{source ? source.name : "Drop a PNG or PBM here, or paste one."}</p>
        <Button variant="outlined" size="small" onClick={() => file.current?.click()}>
          {source ? "Another file…" : "Choose a file…"}
        </Button>
        {onDesk && (
          <Button size="small" onClick={() => fromDesk(onDesk)}>
            Take “{onDesk.name}” from the desk
          </Button>
        )}
        <input
          ref={file}
          type="file"
          className="unseen"
          tabIndex={-1}
          accept="image/png,.pbm,image/x-portable-bitmap"
          aria-label="Picture, PNG or PBM"
          onChange={(e) => {
            void take(e.target.files);
            e.target.value = "";
          }}
        />
      </div>
      <div className={css.settings}>
        <Count
          label="Columns"
          value={cut.block.cols}
          most={20}
          onChange={(cols) => set({ block: { ...cut.block, cols } })}
        />
        <Count
          label="Rows"
          value={cut.block.rows}
          most={tall ? 1 : 4}
          onChange={(rows) => set({ block: { ...cut.block, rows } })}
        />
        <Count
          label="Slots"
          value={Math.min(cut.slots, most)}
          least={0}
          most={most}
          onChange={(slots) => set({ slots })}
        />
        <Choice
          label="Greys"
          value={cut.dither ?? ""}
          onChange={(v) => set({ dither: (v || undefined) as Request["dither"] })}
        >
          <option value="">threshold</option>
          <option value="diffuse">diffused</option>
          <option value="ordered">patterned</option>
        </Choice>
      </div>
      <label className={css.slider}>
        Threshold
        <input
          type="range"
          min={1}
          max={255}
          value={cut.threshold}
          onChange={(e) => set({ threshold: Number(e.target.value) })}
        />
        <output>{cut.threshold}</output>
      </label>
      <div className={css.checks}>
        <Check
          checked={cut.gaps ?? false}
          onChange={(e) => set({ gaps: e.target.checked })}
          title="The picture goes on behind the gaps, so that lines run straight through them"
        >
          it has the dots hidden in the gaps
        </Check>
        <Check checked={cut.invert ?? false} onChange={(e) => set({ invert: e.target.checked })}>
          bright is lit
        </Check>
      </div>
      {error && source && (
        <p role="alert" className={css.wrong}>
          {reason(error)}
        </p>
      )}
      {refused && <p role="alert">{refused}</p>}
      {result && source && !error && (
        <Result result={result} cols={cut.block.cols} slots={cut.slots} onKeep={(shown) => void keep(shown)} />
      )}
    </section>
  );
}

/** A sheet as a portable bitmap, without gaps. */
function bitmapOf({ cols, rows, cells }: Sheet): string {
  const height = cells[0]?.length ?? 8;
  const lines = Array.from({ length: rows * height }, (_, y) =>
    Array.from({ length: cols }, (_, col) => {
      const bits = cells[Math.floor(y / height) * cols + col]?.[y % height] ?? 0;
      return bits.toString(2).padStart(5, "0");
    }).join(""),
  );
  return `P1 ${cols * 5} ${rows * height}\n${lines.join("\n")}\n`;
}

interface CountProps {
  label: string;
  value: number;
  least?: number;
  most: number;
  onChange: (n: number) => void;
}

/** A small number by its own arrows. */
export function Count({ label, value, least = 1, most, onChange }: CountProps) {
  return (
    <label className={css.count}>
      {label}
      <TextBox
        type="number"
        min={least}
        max={most}
        value={value}
        onChange={(e) => {
          const n = Number(e.target.value);
          if (Number.isInteger(n) && n >= least && n <= most) onChange(n);
        }}
      />
    </label>
  );
}

interface ResultProps {
  result: CutPicture;
  cols: number;
  slots: number;
  onKeep: (r: CutPicture) => void;
}

/** The picture as it was wanted and as it comes to be shown, with the glyphs that it takes. */
function Result({ result, cols, slots, onKeep }: ResultProps) {
  const merged = result.distinct > result.glyphs.length;
  const free = result.cells.filter((c) => c.glyph < 0).length;
  const dot = Math.max(1.5, Math.min(12, Math.floor(340 / (cols * 6))));
  return (
    <div className={css.result}>
      <figure>
        <Cells
          cells={result.cells.map((c) => c.shown)}
          wanted={result.cells.map((c) => c.wanted)}
          cols={cols}
          dot={dot}
          label="The picture as it comes to be shown"
        />
        <figcaption>
          {merged
            ? `${result.distinct} different cells are shown by ${result.glyphs.length} glyphs and the ROM: ${result.changed} dots change (outlined), ${result.least ? "which is proved to be the fewest" : "not proved to be the fewest"}.`
            : `${result.glyphs.length} of ${slots} slots; no dot changes.`}
          {free > 0 && ` ${free} ${free === 1 ? "cell costs" : "cells cost"} no slot: blank, or in the ROM.`}
        </figcaption>
      </figure>
      {merged && (
        <figure>
          <Cells cells={result.cells.map((c) => c.wanted)} cols={cols} dot={Math.max(1, dot / 2)} label="As it was" />
          <figcaption>As it was</figcaption>
        </figure>
      )}
      <div className={css.glyphs} aria-label="Its glyphs" role="group">
        {result.glyphs.map((g, i) => (
          <Cells key={i} cells={[g.rows]} cols={1} dot={3} />
        ))}
      </div>
      <Button variant="contained" onClick={() => onKeep(result)}>
        Take it to the desk
      </Button>
    </div>
  );
}
