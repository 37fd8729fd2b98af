import { useState } from "react";
import type { Extras } from "../../api/queries";
import { useBench } from "../../work/BenchContext";
import { useStep } from "../../work/StepContext";
import css from "./Transport.module.css";

const faults: { value: NonNullable<Extras["fault"]>; title: string }[] = [
  { value: "no-init", title: "No initialisation" },
  { value: "wrong-address", title: "Wrong address" },
  { value: "no-waits", title: "No waits" },
  { value: "crossed-wires", title: "D4 and D5 swapped" },
  { value: "lost-nibble", title: "Lost pulse of E" },
];

/** Mistakes to make on purpose, to see on the glass what they look like. */
export function Faults({ at }: { at: number }) {
  const { module } = useBench();
  const { extras, setExtras, choose } = useStep();
  const [step, setStep] = useState("");
  const make = (fault: Extras["fault"], lostAt: number) => {
    choose(null);
    setExtras({ ...extras, fault, lostAt: fault === "lost-nibble" && lostAt > 0 ? lostAt : undefined });
  };
  return (
    <span className={css.faults}>
      <select
        className="entry"
        aria-label="Mistake"
        title="A mistake of the host, made on purpose: see on the glass what it looks like"
        value={extras.fault ?? ""}
        onChange={(e) => make((e.target.value || undefined) as Extras["fault"], Number(step))}
      >
        <option value="">No mistake</option>
        {faults.map((f) => (
          <option
            key={f.value}
            value={f.value}
            disabled={f.value === "wrong-address" && module.link.kind !== "backpack"}
          >
            {f.title}
          </option>
        ))}
      </select>
      {extras.fault === "lost-nibble" && (
        <input
          className="entry"
          type="number"
          min={1}
          aria-label="Step that loses a pulse"
          title="Step that loses its first pulse of E; empty: the first character"
          placeholder={at >= 0 ? `step ${at + 1}` : "step"}
          value={step}
          onChange={(e) => {
            setStep(e.target.value);
            make("lost-nibble", Number(e.target.value));
          }}
        />
      )}
    </span>
  );
}
