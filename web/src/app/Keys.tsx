import Button from "@mui/material/Button";
import { memo } from "react";
import css from "./Keys.module.css";

const keys: [string[], string][] = [
  [["←", "→", "↑", "↓"], "move over the cells; with Shift select"],
  [["Home", "End"], "start and end of the row; with Ctrl of the screen"],
  [["Enter"], "start of the next row"],
  [["Insert"], "overtype or insert"],
  [["Backspace", "Delete"], "clear the cell before; close the gap at the cursor"],
  [["Ctrl", "A"], "select the screen"],
  [["Ctrl", "Z"], "undo; with Shift redo"],
  [["\\xDF"], "typed on the glass: the code DF itself"],
  [["↑", "↓"], "in the list of bytes: step, and see the glass after it"],
  [["←", "→", "↑", "↓"], "in the ROM's chart: choose a code; Enter types it"],
  [["Alt", "Page Up", "Page Down"], "module before and after"],
  [["Alt", "↑", "↓"], "fold the module to a strip, and unfold it"],
  [["F7", "F8", "F9"], "in the run: step back, play or pause, step"],
  [["Esc"], "from a step back to the end"],
];

/** What the keyboard does. */
export const Keys = memo(function Keys() {
  return (
    <>
      <Button size="small" color="inherit" popoverTarget="keys">
        Keys
      </Button>
      <div id="keys" popover="auto" className={css.sheet}>
        <h2>Keys</h2>
        <dl>
          {keys.map(([names, what]) => (
            <div key={what}>
              <dt>
                {names.map((n) => (
                  <kbd key={n}>{n}</kbd>
                ))}
              </dt>
              <dd>{what}</dd>
            </div>
          ))}
        </dl>
      </div>
    </>
  );
});
