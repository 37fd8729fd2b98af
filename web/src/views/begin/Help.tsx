import type { Catalog } from "../../api/client";
import css from "./BeginView.module.css";

/** How to know a module. */
export function HelpModule() {
  return (
    <details className={css.help}>
      <summary>I do not know: help me see</summary>
      <ul>
        <li>
          Count the little windows of one row, and the rows. Hold the glass at a slant under a lamp: the cells show even
          without power.
        </li>
        <li>
          Count the holes at the edge: 16 in one row have a light (the last two, A and K); 14 have none; 2 × 7 or 2 × 8
          stand at one end.
        </li>
        <li>
          A backpack is a small board soldered to those 16 holes, with four pins: GND, VCC, SDA, SCL, a blue trimmer for
          the contrast, and three pairs of pads, A0 to A2.
        </li>
        <li>
          Glass with a fine grid or wires inside and a dark front that glows when fed is a VFD. It draws far more
          current, and makes tens of volts on its board: touch nothing on its back while it is fed.
        </li>
        <li>Two large black blobs or chips on the back and 18 pins: a 40 × 4, with two controllers.</li>
      </ul>
    </details>
  );
}

/** How to know a board. */
export function HelpHost({ hosts }: { hosts: Catalog["hosts"] }) {
  return (
    <details className={css.help}>
      <summary>I do not know: help me see</summary>
      <ul>
        {hosts.map((h) => (
          <li key={h.part}>
            <b>{h.part}</b>, {(h.logicMV / 1000).toFixed(1)} V: {h.look}.
          </li>
        ))}
        <li>
          Read the largest chip with a lens, or by a photo. What is printed there decides, not the board’s colour.
        </li>
      </ul>
    </details>
  );
}

/** How to choose a link. */
export function HelpLink() {
  return (
    <details className={css.help}>
      <summary>I do not know: help me see</summary>
      <ul>
        <li>Four wires from a small board on the module’s back: a backpack. Its address is found by a scan.</li>
        <li>A chip of 16 legs beside the module, marked 74HC595: a shift register.</li>
        <li>
          Wires straight from the module’s holes to the host, D0 to D3 left open: 4-bit parallel; all eight: 8-bit.
        </li>
        <li>Nothing joined yet: let one be recommended. The Bench view compares all four for your own screen.</li>
      </ul>
    </details>
  );
}
