import Button from "@mui/material/Button";
import { useEffect, useRef, useState, type KeyboardEvent } from "react";
import { drawCells } from "../../api/glyphs";
import { type Schemas } from "../../api/client";
import { Icon, type IconName } from "../../ui/Icon";
import { useLatest } from "../../ui/useLatest";
import { useBench } from "../../work/BenchContext";
import {
  copiedCells,
  copyCells,
  heightOf,
  litAt,
  sheetOf,
  tall,
  withCells,
  type Dot,
  type Target,
} from "../../work/glyphs";
import { reason } from "../../work/reason";
import { arrows } from "../../ui/arrows";
import { Bare } from "../../ui/Bare";
import { DotGrid } from "../../parts/dots/DotGrid";
import { Names } from "./Names";
import { RowTable } from "./RowTable";
import { RowText } from "./RowText";
import { Sample } from "./Sample";
import { usePartner } from "./usePartner";
import css from "./Desk.module.css";

interface Props {
  target: Target;
  onChoose: (t: Target) => void;
  /** Writes it at the caret on the glass. */
  onPut: () => void;
  /** The code that shows each slot. */
  codes: ReadonlyMap<number, number>;
  /** Keys go to its dots from the start. */
  focus: boolean;
}

type Operation = Schemas["DrawRequest"]["do"];

const tools: { do: Operation; key: string; icon: IconName; title: string }[] = [
  { do: "mirror", key: "m", icon: "mirror", title: "Mirror" },
  { do: "flip", key: "f", icon: "flip", title: "Flip" },
  { do: "turn", key: "t", icon: "turn", title: "Turn" },
  { do: "invert", key: "i", icon: "invert", title: "Invert" },
  { do: "symmetric", key: "y", icon: "half", title: "Symmetric" },
];

/** The dots of a glyph or a picture, drawn with mouse, finger or keys; beside them their rows as numbers. */
export function Desk({ target, onChoose, onPut, codes, focus }: Props) {
  const { bench, module, change } = useBench();
  const [at, setAt] = useState<Dot>({ x: 0, y: 0 });
  const [trouble, setTrouble] = useState<string>();
  const height = heightOf(module);
  const sheet = sheetOf(bench, module, target);
  const latest = useLatest({ bench, module, sheet });
  const partner = usePartner(target, onChoose, setTrouble);
  const frame = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (focus) frame.current?.querySelector<SVGElement>("svg")?.focus({ preventScroll: true });
  }, [focus]);
  if (!sheet) return null;
  const { cols } = sheet;
  const cellAt = Math.floor(at.y / height) * cols + Math.floor(at.x / 5);

  const set = (cells: number[][], tag = "") => {
    setTrouble(undefined);
    change((b) => withCells(b, b.modules.find((m) => m.id === module.id) ?? module, target, cells), tag);
  };
  const operate = async (operation: Operation, dx = 0, dy = 0) => {
    const was = latest.current.sheet;
    if (!was) return;
    try {
      const block = { cols: was.cols, rows: was.rows, tall: height > 8 };
      const { cells } = await drawCells({ block, cells: was.cells.map((rows) => ({ rows })), do: operation, dx, dy });
      set(
        cells.map((c) => tall(c.rows, height)),
        operation === "shift" ? "shift" : "",
      );
    } catch (e) {
      setTrouble(reason(e));
    }
  };
  /** Lights dots, or darkens them: of the sheet as it is when the change is made, as strokes come fast. */
  const light = (dots: Dot[], lit: boolean, tag: string) => {
    setTrouble(undefined);
    change((b) => {
      const m = b.modules.find((o) => o.id === module.id) ?? module;
      const cells = sheetOf(b, m, target)?.cells.map((rows) => [...rows]);
      for (const { x, y } of dots) {
        const rows = cells?.[Math.floor(y / height) * cols + Math.floor(x / 5)];
        const bit = 1 << (4 - (x % 5));
        const was = rows?.[y % height];
        if (rows && was !== undefined) rows[y % height] = lit ? was | bit : was & ~bit;
      }
      return cells ? withCells(b, m, target, cells) : b;
    }, tag);
  };
  const paste = () => {
    const from = copiedCells();
    if (!from) return;
    set(
      sheet.cells.map((rows, i) => {
        const source = from.cells[Math.floor(i / cols) * from.cols + (i % cols)];
        return i % cols < from.cols && source ? tall(source, height) : rows;
      }),
    );
  };
  const copy = () => {
    copyCells({ cells: sheet.cells, cols });
  };
  const onKey = (e: KeyboardEvent) => {
    const key = e.key.length === 1 ? e.key.toLowerCase() : e.key;
    const step = arrows[key];
    if (e.altKey) return;
    if (e.ctrlKey || e.metaKey) {
      if (key === "c") copy();
      else if (key === "v") paste();
      else return;
      e.preventDefault();
      return;
    }
    const tool = tools.find((o) => o.key === key);
    if (step && e.shiftKey) void operate("shift", step[0], step[1]);
    else if (step)
      setAt({
        x: Math.min(Math.max(at.x + step[0], 0), cols * 5 - 1),
        y: Math.min(Math.max(at.y + step[1], 0), sheet.rows * height - 1),
      });
    else if (key === " ") light([at], !litAt(sheet, height, at), "dots");
    else if (key === "Enter") onPut();
    else if (key === "Delete" || key === "Backspace") set(sheet.cells.map((rows) => rows.map(() => 0)));
    else if (tool) void operate(tool.do);
    else return;
    e.preventDefault();
  };
  return (
    <section className={css.desk} aria-label="Desk">
      <Names target={target} onChoose={onChoose} />
      <div className={css.tools} role="toolbar" aria-label="Change the dots">
        {tools.map((t) => (
          <Bare
            key={t.do}
            className={css.tool}
            title={`${t.title} (${t.key.toUpperCase()})`}
            onClick={() => void operate(t.do)}
          >
            <Icon name={t.icon} size={18} />
            <span>{t.title}</span>
          </Bare>
        ))}
        <Bare className={css.tool} title="Copy (Ctrl+C)" onClick={copy}>
          <Icon name="copy" size={18} />
          <span>Copy</span>
        </Bare>
        <Bare className={css.tool} title="Paste (Ctrl+V)" onClick={paste}>
          <Icon name="paste" size={18} />
          <span>Paste</span>
        </Bare>
        <Bare className={css.tool} title={partner.title} onClick={() => void partner.make(cellAt)}>
          <Icon name="next" size={18} />
          <span>Mirrored copy</span>
        </Bare>
      </div>
      <div className={css.drawing}>
        <div ref={frame} className={css.frame} onKeyDown={onKey}>
          <DotGrid sheet={sheet} height={height} tint={module.display.tint} at={at} onAt={setAt} onLight={light} />
          <p className={css.hint}>
            Click or drag; or arrows and <kbd>Space</kbd>. <kbd>Shift</kbd> with an arrow moves all dots.
          </p>
          {(trouble ?? partner.refused) && <p role="alert">{trouble ?? partner.refused}</p>}
        </div>
        <div className={css.numbers}>
          <RowTable
            cell={cellAt}
            of={sheet}
            onSet={(row, v) =>
              set(sheet.cells.map((rows, i) => (i === cellAt ? rows.map((o, r) => (r === row ? v : o)) : rows)))
            }
          />
        </div>
        <div className={css.more}>
          <Button variant="contained" onClick={onPut} title="Write it at the caret on the glass (Enter)">
            Put on the glass
          </Button>
          <Sample target={target} sheet={sheet} codes={codes} />
        </div>
      </div>
      <RowText sheet={sheet} height={height} onSet={(cells) => set(cells)} onChoose={onChoose} />
    </section>
  );
}
