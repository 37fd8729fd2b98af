import type { Schemas } from "../../api/client";
import css from "./Size.module.css";

/** What an ATmega328P has, in bytes (its data sheet). */
const has = { flash: 32768, ram: 2048 };

/** What the program takes of an ATmega328P. */
export function Size({ size }: { size: Schemas["CodeSize"] }) {
  const n = (x: number) => x.toLocaleString("en");
  return (
    <dl
      className={css.size}
      title="Of the example, built for an ATmega328P: flash within 6 % or 100 bytes, RAM without the stack"
    >
      <dt>Flash</dt>
      <dd>
        about {n(size.flash)} B
        <Bar of={has.flash} parts={[size.flash - size.tables, size.tables]} />
        <small>{n(size.tables)} B are tables, of 32 KiB</small>
      </dd>
      <dt>RAM</dt>
      <dd>
        {n(size.ram)} B
        <Bar of={has.ram} parts={[size.ram]} />
        <small>of 2 KiB</small>
      </dd>
    </dl>
  );
}

function Bar({ of, parts }: { of: number; parts: number[] }) {
  return (
    <span className={css.bar} aria-hidden="true">
      {parts.map((p, i) => (
        <i key={i} style={{ inlineSize: `${Math.min(100, (100 * p) / of)}%` }} />
      ))}
    </span>
  );
}
