import { useRef, useState, type ClipboardEvent, type KeyboardEvent, type PointerEvent } from "react";
import type { Glass as GlassState } from "../../api/client";
import { Glass } from "../glass/Glass";
import { CELL_COLS, GLASS_MARGIN, rowPitch } from "../glass/metrics";
import { groundOf } from "../glass/paint";
import { tintOf } from "../glass/tints";
import { Bare } from "../../ui/Bare";
import { BLOCK, UNREADABLE } from "./sheet";
import css from "./SeenPanel.module.css";

interface Props {
  /** What was typed, drawn by the program. */
  glass: GlassState;
  cells: string[];
  tint: string | undefined;
  pitch: number;
  onType: (cells: string[]) => void;
}

/** A glass to type on what one sees on the real one. */
export function SeenGlass({ glass, cells, tint, pitch, onType }: Props) {
  const { cols, rows } = glass;
  const [at, setAt] = useState(0);
  const [focused, setFocused] = useState(false);
  const input = useRef<HTMLTextAreaElement>(null);
  const cellWidth = CELL_COLS * pitch;
  const cellHeight = rowPitch(glass) * pitch;
  const count = cols * rows;

  const put = (text: string) => {
    const next = [...cells];
    let i = at;
    for (const ch of text.replaceAll("\r", "")) {
      if (ch === "\n") i = Math.min((Math.floor(i / cols) + 1) * cols, count - 1);
      else if (i < count) next[i++] = ch;
    }
    setAt(Math.min(i, count - 1));
    onType(next);
  };
  const erase = (i: number) => onType(cells.map((c, k) => (k === i ? " " : c)));
  const row = Math.floor(at / cols);
  const does: Record<string, () => void> = {
    ArrowLeft: () => setAt(Math.max(at - 1, 0)),
    ArrowRight: () => setAt(Math.min(at + 1, count - 1)),
    ArrowUp: () => setAt(at >= cols ? at - cols : at),
    ArrowDown: () => setAt(at + cols < count ? at + cols : at),
    Home: () => setAt(row * cols),
    End: () => setAt(row * cols + cols - 1),
    Enter: () => setAt(Math.min((row + 1) * cols, (rows - 1) * cols)),
    Backspace: () => {
      const before = Math.max(at - 1, 0);
      setAt(before);
      erase(before);
    },
    Delete: () => erase(at),
  };
  const onKey = (e: KeyboardEvent) => {
    if (e.ctrlKey || e.metaKey) return;
    const character = e.altKey ? { b: BLOCK, u: UNREADABLE }[e.key.toLowerCase()] : undefined;
    const act = does[e.key];
    if (!character && !act) return;
    e.preventDefault();
    if (character) put(character);
    else act?.();
  };
  const onPaste = (e: ClipboardEvent) => {
    e.preventDefault();
    put(e.clipboardData.getData("text/plain").replace(/\r?\n$/, ""));
  };
  const pick = (e: PointerEvent<HTMLDivElement>) => {
    e.preventDefault();
    const area = e.currentTarget.getBoundingClientRect();
    const col = Math.min(Math.max(Math.floor((e.clientX - area.left) / cellWidth), 0), cols - 1);
    const r = Math.min(Math.max(Math.floor((e.clientY - area.top) / cellHeight), 0), rows - 1);
    setAt(r * cols + col);
    input.current?.focus({ preventScroll: true });
  };
  return (
    <div>
      <div
        className={css.glass}
        data-focused={focused || undefined}
        style={{ padding: GLASS_MARGIN * pitch, background: groundOf(glass, tintOf(tint)) }}
      >
        <div className={css.area} onPointerDown={pick}>
          <Glass glass={glass} tint={tint} pitch={pitch} name="What you typed" />
          <span
            className={css.caret}
            style={{
              left: (at % cols) * cellWidth - pitch / 2,
              top: row * cellHeight - pitch / 2,
              width: cellWidth,
              height: cellHeight,
            }}
          />
        </div>
        <textarea
          ref={input}
          className={css.input}
          aria-label="Type what stands on the glass"
          aria-describedby="seen-help"
          autoCapitalize="off"
          autoCorrect="off"
          spellCheck={false}
          value=""
          onFocus={() => setFocused(true)}
          onBlur={() => setFocused(false)}
          onKeyDown={onKey}
          onPaste={onPaste}
          onChange={(e) => put(e.target.value)}
        />
      </div>
      <p id="seen-help" className={css.help}>
        Column {(at % cols) + 1}, row {row + 1}.{" "}
        <Bare className={css.sign} onClick={() => put(BLOCK)} title="A solid block (Alt+B)">
          █ block
        </Bare>{" "}
        <Bare className={css.sign} onClick={() => put(UNREADABLE)} title="A character that no key has (Alt+U)">
          ⁙ cannot be typed
        </Bare>
      </p>
    </div>
  );
}
