import type { Schemas } from "../../api/client";
import css from "./Size.module.css";

/** What the program takes of the host. */
export function Size({ size }: { size: Schemas["CodeSize"] }) {
  const n = (x: number) => x.toLocaleString("en");
  return (
    <dl
      className={css.size}
      title={`Of the example, built for an ${size.of}: flash within 6 % or 100 bytes, RAM without the stack`}
    >
      <dt>Flash</dt>
      <dd>
        about {n(size.flash)} B
        <Bar of={size.flashOf} parts={[size.flash - size.tables, size.tables]} />
        <small>
          {n(size.tables)} B are tables, of {n(size.flashOf)} B
        </small>
      </dd>
      <dt>RAM</dt>
      <dd>
        {n(size.ram)} B
        <Bar of={size.ramOf} parts={[size.ram]} />
        <small>of {n(size.ramOf)} B</small>
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

/** What a MicroPython program takes of its heap. */
export function Heap({ heap, of }: { heap: number; of: number | undefined }) {
  const n = (x: number) => (Math.round(x / 1000) * 1000).toLocaleString("en");
  return (
    <dl className={css.size} title="Once it is there, within a fifth; while the board compiles it, some more">
      <dt>Memory</dt>
      <dd>
        about {n(heap)} B{of !== undefined && <Bar of={of} parts={[heap]} />}
        <small>{of === undefined ? "of MicroPython’s heap" : `of about ${n(of)} B of heap`}</small>
      </dd>
    </dl>
  );
}
