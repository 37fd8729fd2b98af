import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import { memo } from "react";
import type { RunResult } from "../../api/client";
import { Copy } from "../../ui/Copy";
import { binary, hex } from "../../ui/numbers";
import { countFrom, useBase } from "../../ui/places";
import { setRowEnd, useRowEnd } from "../../work/typing/rowEnd";
import { readable, type Mode } from "../../work/typing/rows";
import type { Typing } from "../../work/typing/useTyping";
import { Term } from "../../ui/Term";
import { Check } from "../../ui/Check";
import { Bare } from "../../ui/Bare";
import css from "./CellCard.module.css";

/** The cell at the cursor: what stands there, its code and its address. */
export function CellCard({ run, typing, cols }: { run: RunResult; typing: Typing; cols: number }) {
  const { row, col } = typing.caret;
  const base = useBase();
  const cell = col < cols ? run.cells[row * cols + col] : undefined;
  return (
    <div className={css.card}>
      <h2 className={css.title}>
        Row {row + base}, column {col + base}
        <Bare
          className={css.base}
          title="Count rows and columns from 1, as people do, or from 0, as most programs do"
          onClick={() => countFrom(base === 1 ? 0 : 1)}
        >
          counted from {base}
        </Bare>
      </h2>
      {cell ? (
        <dl className={css.facts} id="cell-at-cursor">
          <dt>Character</dt>
          <dd>
            {cell.missing ? (
              <strong className={css.missing}>{cell.key ? "a glyph without a slot" : `${cell.char} not in ROM`}</strong>
            ) : cell.glyph ? (
              <span className={css.glyph}>{cell.glyph}</span>
            ) : (
              <code className={css.char}>{cell.shows === " " ? "space" : cell.shows || readable(cell.char)}</code>
            )}
          </dd>
          <dt>Code</dt>
          <dd>
            <Copy what="the code in hexadecimal" text={hex(cell.code)}>
              <code>{hex(cell.code)}</code>
            </Copy>
            <Copy what="the code in decimal" text={String(cell.code)}>
              <code>{cell.code}</code>
            </Copy>
          </dd>
          <dt>Binary</dt>
          <dd>
            <Copy what="the code in binary" text={binary(cell.code)}>
              <code>{binary(cell.code)}</code>
            </Copy>
          </dd>
          <dt>
            <Term of="DDRAM" />
          </dt>
          <dd>
            <Copy what="the DDRAM address" text={hex(cell.address)}>
              <code>{hex(cell.address)}</code>
            </Copy>
          </dd>
        </dl>
      ) : (
        <p className={css.outside} id="cell-at-cursor">
          Outside the glass. What stands here is kept, and not shown.
        </p>
      )}
      <ModeSwitch mode={typing.mode} setMode={typing.setMode} />
      <RowEndSwitch />
    </div>
  );
}

/** Whether typing goes on in another row behind a row's last cell. */
function RowEndSwitch() {
  const end = useRowEnd();
  return (
    <Check
      checked={end === "module"}
      onChange={(e) => setRowEnd(e.target.checked ? "module" : "beyond")}
      title="Behind a row’s last cell typing goes on in the row that the module writes next, and from the last in the first"
    >
      wrap as the module does
    </Check>
  );
}

const ModeSwitch = memo(function ModeSwitch({ mode, setMode }: Pick<Typing, "mode" | "setMode">) {
  return (
    <ToggleButtonGroup
      exclusive
      fullWidth
      size="small"
      aria-label="What typing does"
      value={mode}
      onChange={(_, next: Mode | null) => next && setMode(next)}
    >
      <ToggleButton value="overtype">Overtype</ToggleButton>
      <ToggleButton value="insert">Insert</ToggleButton>
    </ToggleButtonGroup>
  );
});
