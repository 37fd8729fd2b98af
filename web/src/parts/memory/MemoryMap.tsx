import { useMemo } from "react";
import type { Controller } from "../../api/client";
import { bytes } from "../../api/bytes";
import { useStep } from "../../work/StepContext";
import { digits, hex } from "../../ui/numbers";
import { Term } from "../../ui/Term";
import css from "./MemoryMap.module.css";

interface Props {
  controller: Controller;
  /** Cell of the glass that the current step writes; null for none. */
  current: number | null;
  /** Goes to the step that writes a cell. */
  onCell: (cell: number) => void;
}

/** DDRAM with its window and address counter, and CGRAM's glyphs. */
export function MemoryMap({ controller: c, current, onCell }: Props) {
  const { mark, setMark } = useStep();
  const ddram = useMemo(() => bytes(c.ddram), [c.ddram]);
  const cgram = useMemo(() => bytes(c.cgram), [c.cgram]);
  return (
    <section className={css.map} aria-label="Memory">
      <div>
        <h2>
          <Term of="DDRAM" /> <small>framed: in the window · brass: address counter</small>
        </h2>
        <div className={css.ddram} onPointerLeave={() => setMark(null)}>
          {c.addresses.map((address, i) => {
            const cell = c.window[i] ?? -1;
            return (
              <span
                key={i}
                data-shown={cell >= 0 || undefined}
                data-counter={(!c.inCGRAM && c.address === address) || undefined}
                data-marked={(cell >= 0 && cell === (mark ?? current)) || undefined}
                onClick={() => cell >= 0 && onCell(cell)}
                title={`DDRAM ${hex(address)} holds ${hex(ddram[i] ?? 0)}${cell < 0 ? ", outside the window" : ""}`}
                onPointerEnter={() => setMark(cell >= 0 ? cell : null)}
              >
                {digits(ddram[i] ?? 0)}
              </span>
            );
          })}
        </div>
      </div>
      <div>
        <h2>
          <Term of="CGRAM" />
        </h2>
        <div className={css.cgram}>
          {Array.from({ length: 8 }, (_, slot) => (
            <svg key={slot} viewBox="0 0 5 8" width="20" height="32" role="img" aria-label={`Glyph in slot ${slot}`}>
              {Array.from({ length: 40 }, (_, i) => {
                const row = Math.floor(i / 5);
                const bits = cgram[slot * 8 + row] ?? 0;
                return (
                  <rect
                    key={i}
                    x={(i % 5) + 0.06}
                    y={row + 0.06}
                    width="0.88"
                    height="0.88"
                    fill={(bits >> (4 - (i % 5))) & 1 ? "var(--chalk)" : "var(--line)"}
                  />
                );
              })}
            </svg>
          ))}
        </div>
      </div>
    </section>
  );
}
