import type { Input } from "../../api/plays";
import { Choice } from "../../ui/Choice";
import { NumberField } from "../../ui/NumberField";
import { Check } from "../../ui/Check";
import css from "./Sheet.module.css";

interface Props {
  input: Input;
  /** Names of parts that inputs of this show belong to. */
  parts: string[];
  /** What is known of its electrics. */
  says: string[];
  /** Voltages of the host's own that its converter can compare with, in millivolts. */
  references: number[];
  set: (next: Partial<Input>) => void;
}

type Circuit = NonNullable<NonNullable<Input["signal"]>["circuit"]>;

/** What an input is made of on the table: the part, what stands beside it, and what comes of that. */
export function ElectricsPart({ input, parts, says, references, set }: Props) {
  const { signal = {}, serial = {}, button = {} } = input;
  const circuit: Circuit = signal.circuit ?? {};
  const put = (next: Circuit) => set({ signal: { ...signal, circuit: next.kind ? next : undefined } });
  const ohms = (label: string, key: "ohm" | "leastOhm" | "mostOhm", most: number) => (
    <NumberField
      label={label}
      value={circuit[key] || undefined}
      whole
      from={0}
      to={most}
      step={100}
      onEmpty={() => put({ ...circuit, [key]: undefined })}
      onChange={(v) => put({ ...circuit, [key]: v || undefined })}
    />
  );
  const several = input.kind === "signal" || input.kind === "button" || input.kind === "counter";
  return (
    <>
      {input.kind === "signal" && !input.part && (
        <Choice
          label="Its voltage comes from"
          value={circuit.kind ?? ""}
          onChange={(v) => put(v === circuit.kind ? circuit : { kind: (v || undefined) as Circuit["kind"] })}
        >
          <option value="">a part of three pins</option>
          <option value="knob">a potentiometer</option>
          <option value="resistor">a resistor that changes, by light or heat</option>
          <option value="follower">the size of an alternating voltage, such as sound</option>
        </Choice>
      )}
      {circuit.kind === "knob" && ohms("its whole way, Ω (empty: 10000)", "ohm", 10_000_000)}
      {circuit.kind === "resistor" && (
        <div className={css.pair}>
          {ohms("it has at least, Ω", "leastOhm", 100_000_000)}
          {ohms("and at most, Ω", "mostOhm", 100_000_000)}
          {ohms("the other resistor, Ω (empty: the best)", "ohm", 10_000_000)}
        </div>
      )}
      {circuit.kind === "follower" && (
        <div className={css.pair}>
          {ohms("resistor that empties, Ω (empty: 10000)", "ohm", 10_000_000)}
          <NumberField
            label="capacitor, nF (empty: 10000)"
            value={circuit.nanoFarad || undefined}
            whole
            from={0}
            to={1_000_000_000}
            step={100}
            onEmpty={() => put({ ...circuit, nanoFarad: undefined })}
            onChange={(v) => put({ ...circuit, nanoFarad: v || undefined })}
          />
        </div>
      )}
      {input.kind === "signal" && (references.length > 0 || signal.referenceMV !== undefined) && (
        <Choice
          label="It reads the most at"
          value={signal.referenceMV ?? ""}
          onChange={(v) => set({ signal: { ...signal, referenceMV: v ? Number(v) : undefined } })}
        >
          <option value="">the host’s logic voltage</option>
          {[...new Set([...references, ...(signal.referenceMV ? [signal.referenceMV] : [])])].map((mV) => (
            <option key={mV} value={mV}>
              {mV / 1000} V, its own
            </option>
          ))}
        </Choice>
      )}
      {input.kind === "button" && (
        <Check
          checked={button.ladder ?? false}
          onChange={(e) => set({ button: { ...button, ladder: e.target.checked || undefined }, pin: undefined })}
        >
          in a row of buttons on one pin, by a ladder of resistors
        </Check>
      )}
      {input.kind === "serial" && (
        <>
          <Choice
            label="The part that sends is fed with"
            value={serial.supplyMV ?? ""}
            onChange={(v) => set({ serial: { ...serial, supplyMV: v ? Number(v) : undefined } })}
          >
            <option value="">the host’s logic voltage</option>
            <option value={3300}>3.3 V</option>
            <option value={5000}>5 V</option>
          </Choice>
          <Check
            checked={serial.sends ?? false}
            onChange={(e) => set({ serial: { ...serial, sends: e.target.checked || undefined } })}
          >
            the host’s TX is joined to it, too
          </Check>
        </>
      )}
      {several && !button.ladder && (parts.length > 0 || input.part !== undefined) && (
        <Choice label="It is a line of" value={input.part ?? ""} onChange={(v) => set({ part: v || undefined })}>
          <option value="">a part of its own</option>
          {[...new Set([...parts, input.part ?? ""])].filter(Boolean).map((p) => (
            <option key={p} value={p}>
              {p}
            </option>
          ))}
        </Choice>
      )}
      {says.map((s) => (
        <p key={s} className={css.note}>
          {s}
        </p>
      ))}
    </>
  );
}
