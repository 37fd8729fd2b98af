import { useCallback, useEffect, useMemo, useRef, useState, type KeyboardEvent } from "react";
import type { Module } from "../../api/client";
import { guessField } from "../../api/screens";
import { sentence } from "../reason";
import { useRun } from "../useRun";
import { useBench } from "../BenchContext";
import { cellsOfField, fieldAt, leanField, retyped, valueIn } from "../fields";
import { withRows, withScreen } from "../setup";
import { useGlass } from "../GlassContext";
import { useMe } from "../useMe";
import { tellCaret } from "../useWhereabouts";
import { arrange as arranged, arrangements, type Arrangement } from "./arrange";
import { useRowEnd } from "./rowEnd";
import {
  backspace,
  carried,
  clear,
  ends,
  isEmpty,
  lengthOf,
  remove,
  selectedText,
  write,
  writeOn,
  type Edit,
  type Mode,
  type Place,
  type Selection,
} from "./rows";
import { usePending } from "../usePending";

/** Typing onto the selected module's screen: caret, selection and keys. */
export interface Typing {
  rows: string[];
  selection: Selection;
  caret: Place;
  mode: Mode;
  setMode: (m: Mode) => void;
  /** Moves the caret; with extend the selection's anchor stays. */
  moveTo: (p: Place, extend: boolean) => void;
  /** Types a text at the caret; as a block its lines stand below each other. */
  type: (text: string, block?: boolean) => void;
  /** To the start of the next row. */
  enter: () => void;
  onKeyDown: (e: KeyboardEvent) => void;
  /** Does what a key for deleting does. */
  press: (key: "Backspace" | "Delete") => void;
  selected: string;
  cut: () => void;
  /** Arranges the row at the caret, or what is selected. */
  arrange: (how: Arrangement) => void;
  /** Why the last thing that the program was asked for could not be done. */
  refused: string | undefined;
}

const start: Selection = { anchor: { row: 0, col: 0 }, caret: { row: 0, col: 0 } };

/** @param rows, cols the module's size in cells */
export function useTyping(size: { rows: number; cols: number }): Typing {
  const { module, screen, changeModule } = useBench();
  const { ahead, data: run } = useRun();
  const hold = usePending();
  const [selections, setSelections] = useState<Record<string, Selection>>({});
  const [mode, setMode] = useState<Mode>("overtype");
  const [refused, setRefused] = useState<string>();
  const { fieldRef, showRef } = useGlass();
  const watches = useMe().role === "watches";
  const follows = useRowEnd() === "module" ? run?.follows : undefined;
  const { rows, fields, id } = screen;
  const composing = `${module.id} ${screen.id}`;
  const selection = selections[composing] ?? start;
  const { caret } = selection;
  const lastRow = Math.max(size.rows, rows.length) - 1;

  useEffect(() => {
    tellCaret(caret);
    return () => tellCaret(undefined);
  }, [caret]);

  const select = useCallback((s: Selection) => setSelections((all) => ({ ...all, [composing]: s })), [composing]);
  const placed = useCallback(
    (p: Place): Place => ({ row: Math.min(Math.max(p.row, 0), lastRow), col: Math.max(p.col, 0) }),
    [lastRow],
  );
  const moveTo = useCallback(
    (p: Place, extend: boolean) => {
      const to = placed(p);
      select({ anchor: extend ? selection.anchor : to, caret: to });
    },
    [placed, select, selection.anchor],
  );
  /** Changes the module and moves the caret, both once its run is there. */
  const put = useCallback(
    (edited: (m: Module) => Module, to: Place, tag: string) => {
      hold(
        () => {
          changeModule(edited, tag);
          select({ anchor: to, caret: to });
        },
        ahead(edited(module)),
        (run) => {
          if (!run || watches) return; // what a watcher types is not stored, and not shown
          showRef.current(run.glass, to);
        },
      );
    },
    [ahead, changeModule, hold, module, select, showRef, watches],
  );
  const apply = useCallback(
    (edit: Edit, tag: string) => put((m) => withRows(m, id, edit.rows), edit.caret, tag),
    [id, put],
  );
  const typedRef = useRef<{ field: number; sample: string; cells: string[] }>({ field: -1, sample: "", cells: [] });
  /** What is typed on a field is its value; then the caret moves on. Reports whether there is one at a place. */
  const onField = useCallback(
    (at: Place, text: string, then: Place): boolean => {
      const i = isEmpty(selection) ? fieldAt(fields, at) : -1;
      const f = fields?.[i];
      if (!f || f.kind === "cursor") return false;
      if (f.kind === "bar") {
        fieldRef.current(i);
        moveTo(then, false);
        return true;
      }
      const start = f.row * size.cols + f.col;
      const cells = (run?.cells ?? []).slice(start, start + f.width).map((c) => c.char);
      // The glass may still show the value before the last key.
      const last = typedRef.current;
      const late = run?.fields[i]?.now.value !== (f.sample ?? "") && last.field === i && last.sample === f.sample;
      const next = retyped(late ? last.cells : cells, at.col - f.col, text);
      const sample = lengthOf(text) === 1 ? valueIn(f, next) : text.trim().slice(0, 80);
      typedRef.current = { field: i, sample, cells: next };
      put(
        (m) =>
          withScreen(m, id, (s) => ({
            ...s,
            fields: s.fields?.map((o, k) => (k === i ? leanField({ ...o, sample }) : o)),
          })),
        placed(then),
        `field ${i}`,
      );
      return true;
    },
    [fieldRef, fields, id, moveTo, placed, put, run, selection, size.cols],
  );
  const type = useCallback(
    (text: string, block = false) => {
      const next = { ...caret, col: caret.col + 1 };
      const one = lengthOf(text) === 1;
      if (onField(caret, text, follows ? carried(next, size.cols, follows) : next)) return;
      if (follows && !block && mode === "overtype" && !/[\r\n]/.test(text))
        apply(writeOn(rows, selection, text, size.cols, follows), one ? "typing" : "");
      else apply(write(rows, selection, text, mode, block), one ? "typing" : "");
    },
    [apply, caret, follows, mode, onField, rows, selection, size.cols],
  );
  const arrange = useCallback(
    (how: Arrangement) =>
      changeModule((m) =>
        withScreen(m, id, (s) => ({
          ...s,
          ...arranged({ rows: s.rows, fields: s.fields }, selection, how, { rows: size.rows, cols: size.cols }),
        })),
      ),
    [changeModule, id, selection, size.cols, size.rows],
  );
  /** Opens the field at the caret, or makes one of what is selected. */
  const openField = useCallback(() => {
    const at = isEmpty(selection) ? fieldAt(fields, caret) : -1;
    if (at >= 0) {
      fieldRef.current(at);
      return;
    }
    const cells = cellsOfField(screen, selection, size.cols);
    if (!cells) return;
    guessField({ ...cells, text: screen.rows[cells.row] ?? "", others: fields }).then(
      (made) => {
        setRefused(undefined);
        changeModule((m) => withScreen(m, id, (s) => ({ ...s, fields: [...(s.fields ?? []), leanField(made)] })));
        fieldRef.current((fields ?? []).length);
      },
      (e: unknown) => setRefused(sentence(e)),
    );
  }, [caret, changeModule, fieldRef, fields, id, screen, selection, size.cols]);
  /** Leaves the module's cursor at the caret: as a line, then as a block, then not at all. */
  const leaveCursor = useCallback(() => {
    changeModule((m) =>
      withScreen(m, id, (s) => {
        const here = s.cursor?.row === caret.row && s.cursor.col === caret.col ? s.cursor.kind : undefined;
        const kind = here === "line" ? "block" : here === "block" ? undefined : "line";
        return { ...s, cursor: kind && { kind, row: caret.row, col: caret.col } };
      }),
    );
  }, [caret, changeModule, id]);
  const enter = useCallback(() => moveTo({ row: caret.row + 1, col: 0 }, false), [caret.row, moveTo]);
  const cut = useCallback(() => {
    if (!isEmpty(selection)) apply(clear(rows, selection, mode), "");
  }, [apply, mode, rows, selection]);

  const press = useCallback(
    (key: "Backspace" | "Delete") => {
      const back = { ...caret, col: caret.col - (key === "Backspace" ? 1 : 0) };
      if (!isEmpty(selection)) cut();
      else if (onField(back, " ", back)) return;
      else if (key === "Backspace") apply(backspace(rows, caret, mode), "backspace");
      else apply(remove(rows, caret), "delete");
    },
    [apply, caret, cut, mode, onField, rows, selection],
  );

  const onKeyDown = useCallback(
    (e: KeyboardEvent) => {
      if (e.nativeEvent.isComposing) return;
      const how = arrangements.find((a) => a.code === e.code);
      if (e.altKey && !e.ctrlKey && !e.shiftKey && (how || e.code === "KeyU")) {
        e.preventDefault();
        if (how) arrange(how.id);
        else leaveCursor();
        return;
      }
      if (e.altKey) return;
      if (e.key === "F2") {
        e.preventDefault();
        openField();
        return;
      }
      const command = e.ctrlKey || e.metaKey;
      const end = { row: caret.row, col: lengthOf(rows[caret.row]) };
      const last = { row: lastRow, col: lengthOf(rows[lastRow]) };
      const moves: Record<string, () => void> = {
        ArrowLeft: () => {
          if (!e.shiftKey && !isEmpty(selection)) moveTo(ends(selection)[0], false);
          else if (caret.col > 0 || caret.row === 0) moveTo({ ...caret, col: caret.col - 1 }, e.shiftKey);
          else moveTo({ row: caret.row - 1, col: size.cols - 1 }, e.shiftKey);
        },
        ArrowRight: () => {
          if (!e.shiftKey && !isEmpty(selection)) moveTo(ends(selection)[1], false);
          else moveTo({ ...caret, col: Math.min(caret.col + 1, Math.max(size.cols, end.col)) }, e.shiftKey);
        },
        ArrowUp: () => moveTo({ ...caret, row: caret.row - 1 }, e.shiftKey),
        ArrowDown: () => moveTo({ ...caret, row: caret.row + 1 }, e.shiftKey),
        Home: () => moveTo(command ? { row: 0, col: 0 } : { ...caret, col: 0 }, e.shiftKey),
        // Once more, and it is the end of the glass.
        End: () =>
          moveTo(
            command ? last : caret.col === end.col ? { ...end, col: Math.max(end.col, size.cols) } : end,
            e.shiftKey,
          ),
        Insert: () => setMode(mode === "insert" ? "overtype" : "insert"),
        Backspace: () => press("Backspace"),
        Delete: () => press("Delete"),
      };
      if (command && e.key.toLowerCase() === "a") {
        e.preventDefault();
        select({ anchor: { row: 0, col: 0 }, caret: last });
        return;
      }
      const move = moves[e.key];
      if (!move || (command && e.key !== "Home" && e.key !== "End")) return;
      e.preventDefault();
      move();
    },
    [arrange, caret, lastRow, leaveCursor, mode, moveTo, openField, press, rows, select, selection, size.cols],
  );

  return useMemo(
    () => ({
      rows,
      selection,
      caret,
      mode,
      setMode,
      moveTo,
      type,
      enter,
      onKeyDown,
      press,
      selected: isEmpty(selection) ? "" : selectedText(rows, selection),
      cut,
      arrange,
      refused,
    }),
    [rows, selection, caret, mode, moveTo, type, enter, onKeyDown, press, cut, arrange, refused],
  );
}
