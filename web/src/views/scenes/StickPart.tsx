import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { fallQuery, type Edit, type Input } from "../../api/plays";
import { useBench } from "../../work/BenchContext";
import { Choice } from "../../ui/Choice";
import { reason } from "../../work/reason";
import { changeInput } from "./edits";
import type { Change } from "./EditPart";
import { inputTitle } from "../../work/showWords";
import { NumberField } from "../../ui/NumberField";
import css from "./Sheet.module.css";

type Keys = NonNullable<Edit["keys"]>;

/** A stick of two readings: where each way begins is worked out from its ends, read or reckoned from what it is fed with. */
export function StickPart({
  inputs,
  keys,
  change,
  put,
}: {
  inputs: Input[];
  keys: Keys;
  change: Change;
  put: (keys: Keys) => void;
}) {
  const signals = inputs.filter((i) => i.kind === "signal");
  const { bench } = useBench();
  const known = signals.find((i) => keys.some((k) => k.input === i.id))?.signal?.supplyMV;
  const [supplyMV, setSupply] = useState(known); // undefined: as the wiring feeds it, from the host's logic supply
  const [referenceMV, setReference] = useState<number>();
  const [read, setRead] = useState<number[]>();
  const { data, error } = useQuery(fallQuery({ fallMs: 1000, host: bench.host ?? {}, supplyMV, referenceMV, read }));
  const stick = data?.stick;
  if (signals.length === 0) return null;
  const use = (axis: "x" | "y", id: string) => {
    if (!stick || !id) return;
    const ways = axis === "x" ? (["left", "right"] as const) : (["up", "down"] as const);
    put([
      ...keys.filter((k) => k.does !== ways[0] && k.does !== ways[1]),
      { does: ways[0], input: id, on: "below", level: stick.low },
      { does: ways[1], input: id, on: "above", level: stick.high },
    ]);
    change((s) =>
      changeInput(s, id, {
        signal: {
          ...s.inputs?.find((i) => i.id === id)?.signal,
          start: stick.middle,
          hysteresis: stick.hysteresis,
          supplyMV,
        },
      }),
    );
  };
  const ends = stick && [stick.least, stick.middle, stick.greatest];
  return (
    <details className={css.stick}>
      <summary>A stick of two readings</summary>
      <div className={css.pair}>
        <NumberField
          label="fed with, V"
          value={(stick?.supplyMV ?? 5000) / 1000}
          onChange={(v) => {
            setRead(undefined);
            setSupply(Math.round(v * 1000));
          }}
        />
        <NumberField
          label="converter’s reference, V"
          value={(stick?.referenceMV ?? 5000) / 1000}
          onChange={(v) => {
            setRead(undefined);
            setReference(Math.round(v * 1000));
          }}
        />
        {ends &&
          ["least reading", "in the middle", "greatest reading"].map((label, i) => (
            <NumberField
              key={label}
              label={label}
              value={ends[i]}
              whole
              onChange={(v) => setRead(ends.map((was, k) => (k === i ? v : was)))}
            />
          ))}
      </div>
      {error && <p role="alert">{reason(error)}</p>}
      {stick && (
        <p className={css.note}>
          Of {stick.bits} bits. It is tilted below {stick.low} and above {stick.high}, and let go {stick.hysteresis}{" "}
          nearer to the middle.
        </p>
      )}
      <div className={css.pair}>
        {(["x", "y"] as const).map((axis) => (
          <Choice
            key={axis}
            label={axis === "x" ? "left and right by" : "up and down by"}
            value=""
            onChange={(id) => use(axis, id)}
          >
            <option value="">choose…</option>
            {signals.map((i) => (
              <option key={i.id} value={i.id}>
                {inputTitle(i)}
              </option>
            ))}
          </Choice>
        ))}
      </div>
    </details>
  );
}
