import { useState } from "react";
import type { Target } from "../../work/glyphs";
import { BarMaker } from "./BarMaker";
import { DigitMaker } from "./DigitMaker";
import { SignMaker } from "./SignMaker";
import { Dot } from "../../ui/Dot";
import css from "./MakePanel.module.css";

const kinds = [
  { id: "bar", title: "Bar" },
  { id: "digits", title: "Large digits" },
  { id: "sign", title: "Moving sign" },
] as const;

/** Glyphs made by rule: bars, large digits, signs that fill or move. */
export function MakePanel({ onChoose }: { onChoose: (t: Target) => void }) {
  const [kind, setKind] = useState<(typeof kinds)[number]["id"]>("bar");
  return (
    <section className={css.make} aria-label="Make">
      <div className={css.kinds} role="radiogroup" aria-label="What to make">
        {kinds.map((k) => (
          <label key={k.id}>
            <Dot name="make" checked={kind === k.id} onChange={() => setKind(k.id)} /> {k.title}
          </label>
        ))}
      </div>
      {kind === "bar" && <BarMaker />}
      {kind === "digits" && <DigitMaker />}
      {kind === "sign" && <SignMaker onChoose={onChoose} />}
    </section>
  );
}
