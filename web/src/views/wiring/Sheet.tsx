import { memo } from "react";
import type { WiringResult } from "../../api/client";
import css from "./Sheet.module.css";

/** What is printed below the drawing: the list of wires, the parts, and what to check before power. */
export const Sheet = memo(function Sheet({ result, name }: { result: WiringResult; name: string }) {
  return (
    <div className={css.sheet}>
      <h2>{name}: wires</h2>
      <table>
        <thead>
          <tr>
            {["", "No.", "From", "Hole", "To", "Hole", "Net", "Colour", "mm"].map((t, i) => (
              <th key={i} scope="col">
                {t}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {result.wires.map((w) => (
            <tr key={w.number}>
              <td>
                <span className={css.box}>{w.done ? "✓" : ""}</span>
              </td>
              <td>{w.number}</td>
              <td>{w.called.from}</td>
              <td>{w.fromHole}</td>
              <td>{w.called.to}</td>
              <td>{w.toHole}</td>
              <td>{w.called.net}</td>
              <td>{w.colour}</td>
              <td>{w.lengthMM}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <h2>Parts</h2>
      <table>
        <tbody>
          {result.parts.map((p) => (
            <tr key={p.what}>
              <td>{p.count} ×</td>
              <td>{p.what}</td>
              <td>{(p.for ?? []).join("; ")}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <h2>Work beside the wires</h2>
      <ul>
        {result.work
          .filter((w) => w.wire === undefined)
          .map((w) => (
            <li key={w.id}>
              <span className={css.box}>{w.done ? "✓" : ""}</span> {w.says} {w.caution}
            </li>
          ))}
      </ul>
    </div>
  );
});
