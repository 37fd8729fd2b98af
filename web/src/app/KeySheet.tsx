const keys: [string[], string][] = [
  [["←", "→", "↑", "↓"], "move over the cells; with Shift select"],
  [["Home", "End"], "start and end of the row; with Ctrl of the screen"],
  [["Enter"], "start of the next row"],
  [["Insert"], "overtype or insert"],
  [["Backspace", "Delete"], "clear the cell before; close the gap at the cursor"],
  [["Ctrl", "A"], "select the screen"],
  [["Alt", "L", "C", "R", "J"], "text of the row, or what is selected: left, centre, right, spread its words"],
  [["Alt", "K", "W", "X"], "fill with the first character, repeat to the end of the row, draw a box"],
  [["F2"], "make a field of the selected cells; on a field, open it"],
  [["Alt", "U"], "leave the module's cursor here: line, block, none"],
  [["Ctrl", "Shift", "F"], "find a text on all screens"],
  [["Ctrl", "Z"], "undo; with Shift redo"],
  [["←", "→"], "along the screens of the module: the one before, the one after"],
  [["\\xDF"], "typed on the glass: the code DF itself"],
  [["↑", "↓"], "in the list of bytes: step, and see the glass after it"],
  [["←", "→", "↑", "↓"], "in the ROM's chart: choose a code; Enter types it"],
  [["Space", "Enter"], "on the glyph desk: change the dot; write the glyph at the cursor on the glass"],
  [["Shift", "←", "→"], "on the glyph desk: move all dots, round the edge"],
  [["M", "F", "T", "I", "Y"], "on the glyph desk: mirror, flip, turn, invert, left half onto right"],
  [["Alt", "Page Up", "Page Down"], "module before and after"],
  [["Alt", "↑", "↓"], "fold the module to a strip, and unfold it"],
  [["F7", "F8", "F9"], "in the run: step back, play or pause, step"],
  [["F8", "F9"], "in the scenes: play or pause, to the next change"],
  [["←", "→", "↑", "↓", "Delete"], "on the map of scenes: to the next one; take a scene or an end away"],
  [["←", "→", "↑", "↓"], "at a scene's end on the time line: a tenth of a second, a second less or more"],
  [["↑", "↓", "Page Up", "Page Down"], "in the program: along its lines; what they come from is marked"],
  [["Alt", "B", "U"], "on the glass of what one sees: a solid block, a sign that cannot be typed"],
  [["↑", "↓", "Enter"], "in a round of practice: along what can be done; do it"],
  [["Ctrl", "Enter"], "in the log: write the entry"],
  [["Esc"], "from a step back to the end"],
];

/** The keys, and what they do. */
export default function KeySheet() {
  return (
    <>
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
    </>
  );
}
