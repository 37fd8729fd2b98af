import Button from "@mui/material/Button";
import { useState } from "react";
import type { Instruction } from "../../api/client";
import { Copy } from "../../ui/Copy";
import { binary, hex, time } from "../../ui/numbers";
import { Bare } from "../../ui/Bare";
import css from "./LivePanel.module.css";

interface Props {
  card: Instruction;
  onDo: (value: number) => void;
}

/** One instruction, its bits to click, what they mean together, and a button that does it. */
export function InstructionCard({ card, onDo }: Props) {
  const [value, setValue] = useState(card.rs ? 0x41 : card.base);
  const fields = card.fields;
  const fieldOf = (bit: number) => fields.find((f) => bit <= f.high && bit > f.high - f.width);
  const meaning = fields
    .filter((f) => !f.numeric)
    .map(
      (f) =>
        f.values?.[(value >> (f.high + 1 - f.width)) & ((1 << f.width) - 1)] ??
        ((value >> f.high) & 1 ? f.set : f.clear),
    );
  return (
    <div className={css.card}>
      <div className={css.bits} role="group" aria-label="Bits">
        {[7, 6, 5, 4, 3, 2, 1, 0].map((bit) => {
          const field = fieldOf(bit);
          const on = (value >> bit) & 1;
          return (
            <Bare
              key={bit}
              disabled={!field || card.rw}
              aria-pressed={on === 1}
              aria-label={`Bit ${bit}: ${field?.name ?? "fixed"} ${card.rw ? "·" : on}`}
              title={
                field
                  ? field.numeric || field.values
                    ? field.name
                    : `${field.name}: ${on ? field.set : field.clear}`
                  : "fixed"
              }
              onClick={() => setValue(value ^ (1 << bit))}
            >
              <small aria-hidden="true">{field && bit === field.high ? field.name : ""}</small>
              {card.rw ? "·" : on}
            </Bare>
          );
        })}
      </div>
      <div className={css.doing}>
        <p className={css.faint}>
          {card.rw ? (
            "The controller drives these bits."
          ) : (
            <>
              <Copy what="the byte" text={hex(value)}>
                <code>
                  {hex(value)} = {value} = {binary(value)}
                </code>
              </Copy>
              <span>{meaning.join(", ")}</span>
            </>
          )}
        </p>
        <Button size="small" variant="outlined" onClick={() => onDo(value)}>
          {card.rw ? "Read" : `Do ${hex(value)}`}
        </Button>
      </div>
      <p>
        {card.summary}{" "}
        <span className={css.faint}>
          RS {Number(card.rs)}, R/W {Number(card.rw)}.{" "}
          {card.executeUs ? `Takes ${time(card.executeUs)} at 270 kHz.` : "Takes no time."}
        </span>
      </p>
    </div>
  );
}
