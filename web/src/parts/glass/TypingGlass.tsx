import { useEffect, useLayoutEffect, useRef, useState, type ClipboardEvent, type PointerEvent } from "react";
import type { ComposedCell, FieldOf, Glass as GlassState } from "../../api/client";
import { useGlass } from "../../work/GlassContext";
import { readable, selectedIn, type Place } from "../../work/typing/rows";
import { useOtherCarets } from "../../work/useWhereabouts";
import type { Typing } from "../../work/typing/useTyping";
import { Glass } from "./Glass";
import { Left } from "./Left";
import { CELL_COLS, GLASS_MARGIN, rowPitch } from "./metrics";
import { drag } from "../../ui/drag";
import { useLatest } from "../../ui/useLatest";
import { groundOf } from "./paint";
import { tintOf } from "./tints";
import css from "./TypingGlass.module.css";

interface Props {
  glass: GlassState;
  cells: ComposedCell[];
  over: string[];
  differing: Place[];
  tint: string | undefined;
  pitch: number;
  name: string;
  /** Fields of the screen: their places are outlined. */
  fields: FieldOf[];
  /** A cell that something else on the page is about, counted row by row. */
  marked: number | null;
  /** The pointer is over a cell, or has left them. */
  onPoint: (cell: number | null) => void;
  /** A cell was clicked. */
  onPick: (cell: number) => void;
  typing: Typing;
}

/**
 * The glass with the keyboard on it: the picture comes from the simulated
 * module, the caret and the marks over it from the screen being composed.
 */
export function TypingGlass({
  glass,
  cells,
  over,
  differing,
  fields,
  tint,
  pitch,
  name,
  marked,
  onPoint,
  onPick,
  typing,
}: Props) {
  const { caret, selection, moveTo } = typing;
  const { toGlassRef, showRef } = useGlass();
  const others = useOtherCarets().filter((o) => o.row < glass.rows && o.col < glass.cols);
  const input = useRef<HTMLTextAreaElement>(null);
  const caretSpan = useRef<HTMLSpanElement>(null);
  const glassRef = useRef<(next: GlassState) => void>(() => undefined);
  const [focused, setFocused] = useState(false);
  const cellWidth = CELL_COLS * pitch;
  const cellHeight = rowPitch(glass) * pitch;
  const box = (p: Place, n = 1) => ({
    ...cornerOf(p, cellWidth, cellHeight, pitch),
    width: n * cellWidth,
    height: cellHeight,
  });

  useEffect(() => {
    if (input.current) emptied(input.current);
    toGlassRef.current = () => input.current?.focus({ preventScroll: true });
    // Whoever has begun to work elsewhere while the glass was computed goes on there.
    if (!document.activeElement?.closest("main, input, textarea, select")) toGlassRef.current();
  }, [toGlassRef]);

  useLayoutEffect(() => {
    showRef.current = (next, caret) => {
      glassRef.current(next);
      const there = caretSpan.current;
      if (!there || !caret || caret.row >= next.rows || caret.col >= next.cols) return;
      there.style.transform = moved(caret, cellWidth, cellHeight, pitch);
    };
    return () => {
      showRef.current = () => undefined;
    };
  }, [showRef, cellWidth, cellHeight, pitch]);

  // What is typed is taken before the text area gets it, which saves it a layout and a paint.
  const latest = useLatest(typing);
  useEffect(() => {
    const area = input.current;
    const onBeforeInput = (e: InputEvent) => {
      const { enter, type } = latest.current;
      const act = { insertText: () => e.data && type(e.data), insertLineBreak: enter, ...deleting(latest.current) }[
        e.inputType
      ];
      if (e.isComposing || !e.cancelable || !act) return;
      e.preventDefault();
      act();
    };
    area?.addEventListener("beforeinput", onBeforeInput);
    return () => area?.removeEventListener("beforeinput", onBeforeInput);
  }, [latest]);

  const placeOf = (e: { clientX: number; clientY: number }, on: Element): Place => {
    const area = on.getBoundingClientRect();
    const within = (v: number, n: number) => Math.min(Math.max(Math.floor(v), 0), n - 1);
    return {
      row: within((e.clientY - area.top) / cellHeight, glass.rows),
      col: within((e.clientX - area.left) / cellWidth, glass.cols),
    };
  };
  /** Puts the caret where the pointer is, and selects from there on, or from where the selection began. */
  const select = (e: PointerEvent) => {
    e.preventDefault();
    input.current?.focus({ preventScroll: true });
    const on = e.currentTarget;
    const at = placeOf(e, on);
    const anchor = e.shiftKey ? selection.anchor : at;
    moveTo(at, e.shiftKey);
    if (!e.shiftKey) onPick(at.row * glass.cols + at.col);
    drag(e, {
      move: (ev) => {
        const p = placeOf(ev, on);
        const behind = p.row > anchor.row || (p.row === anchor.row && p.col > anchor.col);
        latest.current.moveTo(behind ? { ...p, col: p.col + 1 } : p, true);
      },
    });
  };
  const copy = (e: ClipboardEvent, remove: boolean) => {
    if (!typing.selected) return;
    e.preventDefault();
    e.clipboardData.setData("text/plain", typing.selected);
    if (remove) typing.cut();
  };

  const missing = cells.flatMap((c, i) => (c.missing ? [{ char: c.char, place: placeAt(i, glass.cols) }] : []));
  const selected = Array.from({ length: glass.rows }, (_, row) => ({
    row,
    run: selectedIn(selection, row, glass.cols),
  }));
  return (
    <>
      <div
        className={css.frame}
        data-focused={focused || undefined}
        style={{ padding: GLASS_MARGIN * pitch, background: groundOf(glass, tintOf(tint)) }}
      >
        <div
          className={css.area}
          onPointerDown={select}
          onPointerMove={(e) => {
            const p = placeOf(e, e.currentTarget);
            if ((e.buttons & 1) === 0) onPoint(p.row * glass.cols + p.col);
          }}
          onPointerLeave={() => onPoint(null)}
        >
          <Glass glass={glass} tint={tint} pitch={pitch} name={name} showRef={glassRef} />
          {fields.map(
            (f, i) =>
              f.row < glass.rows &&
              f.col < glass.cols && (
                <span
                  key={`f${i}`}
                  className={css.field}
                  data-field={f.name}
                  style={box(f, Math.min(f.width, glass.cols - f.col))}
                />
              ),
          )}
          {selected.map(
            ({ row, run }) =>
              run &&
              run[0] < glass.cols && (
                <span
                  key={row}
                  className={css.selected}
                  style={box({ row, col: run[0] }, Math.min(run[1], glass.cols) - run[0])}
                />
              ),
          )}
          {differing.map((p) => (
            <span key={`d${p.row}-${p.col}`} className={css.differs} style={box(p)} />
          ))}
          {missing.map(({ char, place }) => (
            <span key={`m${place.row}-${place.col}`} className={css.missing} style={box(place)}>
              {readable(char)}
            </span>
          ))}
          {marked !== null && <span className={css.marked} style={box(placeAt(marked, glass.cols))} />}
          {others.map((o) => (
            <span
              key={o.page}
              className={css.other}
              style={box(o)}
              title={`${o.who || "The desk"} writes here`}
              data-who={o.who || "desk"}
            />
          ))}
          {caret.col < glass.cols && caret.row < glass.rows && (
            <span
              ref={caretSpan}
              className={css.caret}
              data-mode={typing.mode}
              style={{ width: cellWidth, height: cellHeight, transform: moved(caret, cellWidth, cellHeight, pitch) }}
            />
          )}
        </div>
        <textarea
          ref={input}
          className={css.input}
          aria-label={`Type on the glass of ${name}`}
          aria-describedby="cell-at-cursor"
          autoCapitalize="off"
          autoCorrect="off"
          spellCheck={false}
          onFocus={(e) => {
            setFocused(true);
            emptied(e.currentTarget);
          }}
          onBlur={() => setFocused(false)}
          onKeyDown={typing.onKeyDown}
          onInput={(e) => {
            const { isComposing, inputType } = e.nativeEvent as InputEvent;
            if (isComposing) return;
            const text = emptied(e.currentTarget);
            if (text) typing.type(text);
            else deleting(typing)[inputType]?.();
          }}
          onCompositionEnd={(e) => {
            const text = emptied(e.currentTarget);
            if (text) typing.type(text);
          }}
          onPaste={(e) => {
            e.preventDefault();
            const text = e.clipboardData.getData("text/plain").replace(/\r?\n$/, "");
            if (text) typing.type(text);
          }}
          onCopy={(e) => copy(e, false)}
          onCut={(e) => copy(e, true)}
        />
      </div>
      {over.map((text, row) => {
        const begins = row < glass.rows ? glass.cols : 0;
        const at = caret.row === row && caret.col >= begins ? caret.col - begins : -1;
        if (!text && at < 0) return null;
        return (
          <Left
            key={row}
            row={row}
            text={text}
            at={at}
            onPick={(i) => {
              input.current?.focus({ preventScroll: true });
              moveTo({ row, col: begins + i }, false);
            }}
          />
        );
      })}
    </>
  );
}

/** Where a cell begins, with half of the gap before it, in CSS pixels. */
const cornerOf = ({ row, col }: Place, width: number, height: number, pitch: number) => ({
  left: col * width - pitch / 2,
  top: row * height - pitch / 2,
});

/** What moves the caret to its cell: nothing has to be laid out anew. */
function moved(p: Place, width: number, height: number, pitch: number): string {
  const { left, top } = cornerOf(p, width, height, pitch);
  return `translate(${left}px, ${top}px)`;
}

/** What is done for the ways of deleting, by the name of the input event. */
const deleting = ({ press }: Typing): Record<string, () => void> => ({
  deleteContentBackward: () => press("Backspace"),
  deleteContentForward: () => press("Delete"),
});

/**
 * Keeps something before and behind the text area's caret: on-screen keyboards send no keys, and delete only where there
 * is something to delete.
 */
const STUFFING = "\u200b";

/** Takes what was typed out of a text area. */
function emptied(area: HTMLTextAreaElement): string {
  const text = area.value.replaceAll(STUFFING, "");
  area.value = STUFFING + STUFFING;
  area.setSelectionRange(1, 1);
  return text;
}

const placeAt = (i: number, cols: number): Place => ({ row: Math.floor(i / cols), col: i % cols });
