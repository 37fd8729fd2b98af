import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Module } from "../../api/client";
import type { Input } from "../../api/plays";
import { inputPlacesQuery } from "../../api/queries";
import { Findings } from "../../parts/findings/Findings";
import { PinEdges } from "../../parts/pins/PinEdges";
import { useBench } from "../../work/BenchContext";
import { reason } from "../../work/reason";
import { planOf } from "../../work/setup";
import { Choice } from "../../ui/Choice";
import { ElectricsPart } from "./ElectricsPart";
import { HeldBy } from "./kindParts";
import { NumberField } from "../../ui/NumberField";
import css from "./Sheet.module.css";

interface Props {
  module: Module;
  input: Input;
  /** Index of the input in the module's show. */
  at: number;
  set: (next: Partial<Input>) => void;
}

type Line = "pin" | "pinB";

/** Where an input is joined to the host, and what the program makes of what it reads there. */
export function JointPart({ module, input, at, set }: Props) {
  const { bench, remedy } = useBench();
  const [line, setLine] = useState<Line>("pin");
  const [refused, setRefused] = useState<string>();
  const { data, error } = useQuery(inputPlacesQuery(planOf(bench), bench.modules.indexOf(module), at));
  const turned = input.kind === "counter" && input.pin !== undefined;
  const now = (turned && line === "pinB" ? input.pinB : input.pin) ?? "";
  const pick = (label: string | undefined) => {
    if (turned && line === "pinB") set({ pinB: label });
    else set(label === undefined ? { pin: undefined, pinB: undefined } : { pin: label });
  };
  return (
    <>
      <h3>Where it is joined</h3>
      {error && <p role="alert">{reason(error)}</p>}
      {turned && (
        <Choice label="Contact" value={line} onChange={(v) => setLine(v as Line)}>
          <option value="pin">
            {input.pinB ? "A, the first of the encoder" : "its only one: each closing counts"}
          </option>
          <option value="pinB">B, the second of a rotary encoder</option>
        </Choice>
      )}
      {data && <PinEdges pins={data.pins} chosen={now} onPick={pick} />}
      {now === "" && (
        <p className={css.note}>
          On no pin: the program does not read it{input.kind === "counter" ? ", unless others step it" : ""}.
        </p>
      )}
      {data?.join && !input.pin && (
        <Button variant="outlined" onClick={() => setRefused(data.join ? remedy(data.join) : undefined)}>
          {data.join.label}
        </Button>
      )}
      {!input.pin && (data?.left?.length ?? 0) > 0 && (
        <p className={css.note}>No pin is left for {data?.left?.join(", ")}: a part on the bus, or another host.</p>
      )}
      {refused && <p role="alert">{refused}</p>}
      {turned && <HeldBy input={input} set={set} />}
      <ElectricsPart
        input={input}
        parts={(module.show?.inputs ?? []).flatMap((i) => (i.part ? [i.part] : []))}
        says={data?.says ?? []}
        references={data?.references ?? []}
        set={set}
      />
      {input.kind === "signal" && <Reading input={input} most={data?.most ?? 1023} set={set} />}
      {(data?.findings.length ?? 0) > 0 && (
        <Findings findings={data?.findings ?? []} about={`where ${input.name ?? input.id} is joined`} />
      )}
    </>
  );
}

/** What value a reading of its pin is, by two points. */
function Reading({ input, most, set }: { input: Input; most: number; set: Props["set"] }) {
  const s = input.signal ?? {};
  const { from, to } = s.scale ?? {};
  const put = (end: "from" | "to", next: { reading?: number; value?: number }) => {
    const one = { from: from ?? { reading: 0, value: 0 }, to: to ?? { reading: most, value: most } };
    set({ signal: { ...s, scale: { ...one, [end]: { ...one[end], ...next } } } });
  };
  const within = (v: number) => Math.min(Math.max(Math.round(v), 0), 65_535);
  return (
    <>
      <p className={css.note}>
        Its pin reads 0 to {most.toLocaleString("en")}. Two readings and what they are, as measured, give the scale
        {s.scale ? "" : "; without, the value is the reading"}.
      </p>
      <div className={css.pair}>
        <NumberField
          label="a reading of"
          value={from?.reading ?? 0}
          onChange={(v) => put("from", { reading: within(v) })}
        />
        <NumberField label="is" value={from?.value ?? 0} onChange={(value) => put("from", { value })} />
      </div>
      <div className={css.pair}>
        <NumberField
          label="and one of"
          value={to?.reading ?? most}
          onChange={(v) => put("to", { reading: within(v) })}
        />
        <NumberField label="is" value={to?.value ?? most} onChange={(value) => put("to", { value })} />
      </div>
      <div className={css.pair}>
        <NumberField
          label="readings averaged"
          value={s.average ?? 1}
          whole
          from={1}
          to={64}
          onChange={(v) => set({ signal: { ...s, average: v } })}
        />
        {s.scale && <Button onClick={() => set({ signal: { ...s, scale: undefined } })}>The reading itself</Button>}
      </div>
    </>
  );
}
