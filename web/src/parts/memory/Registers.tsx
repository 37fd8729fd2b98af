import type { Controller } from "../../api/client";
import { hex, time } from "../../ui/numbers";
import css from "./Registers.module.css";

/** The controller's registers, flags and busy bar. */
export function Registers({ controller: c, waitUs, vfd }: { controller: Controller; waitUs: number; vfd: boolean }) {
  const share = waitUs > 0 ? Math.min(1, c.busyUs / waitUs) : 0;
  const rows: [string, string][] = [
    ["Width", c.fourBit ? "4 bits" : "8 bits"],
    ["Lines", c.twoLine ? "two" : "one"],
    ["Font", c.tall && !c.twoLine ? "5×10" : "5×8"],
    ["Display", c.displayOn ? "on" : "off"],
    ["Cursor", [c.cursorOn && "line", c.blinkOn && "block"].filter(Boolean).join(", ") || "off"],
    ["Counts", `${c.increment ? "up" : "down"}${c.autoShift ? ", shifts" : ""}`],
    ["Shifted", c.offset === 0 ? "no" : `${c.offset} left`],
  ];
  if (c.half !== undefined) rows.push(["Half a byte", `${c.half.toString(16).toUpperCase()}_`]);
  if (vfd) rows.push(["Brightness", `${c.brightness} %`]);
  return (
    <section className={css.registers} aria-label="Registers">
      <div className={css.counter}>
        <h2>
          Address counter{" "}
          <code>
            {c.inCGRAM ? "CGRAM" : "DDRAM"} {hex(c.address)}
          </code>
        </h2>
        <p className={css.busy} title="How much of its execution time the controller still needs">
          <span style={{ width: `${share * 100}%` }} />
          {c.busyUs > 0 ? `Busy for ${time(c.busyUs)} more` : "Ready"}
        </p>
      </div>
      <dl>
        {rows.map(([name, value]) => (
          <div key={name}>
            <dt>{name}</dt>
            <dd>{value}</dd>
          </div>
        ))}
      </dl>
    </section>
  );
}
