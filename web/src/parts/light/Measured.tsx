import type { LightStep } from "../../api/client";
import { Field } from "../../ui/Field";
import { decimal } from "../../ui/numbers";
import { refused, type FirstLight } from "../../work/useFirstLight";

/** A voltage that a step of first light has one measure. */
export function Measured({ step: s, light }: { step: LightStep; light: FirstLight }) {
  const { measured, measure } = light;
  return (
    <Field
      label={`Measured, ${s.unit ?? ""} (planned ${s.planned ?? 0})`}
      value={String((s.id === "supply" ? measured.supplyMV : measured.voMV) ?? "")}
      placeholder="not measured"
      onChange={(text) => {
        const v = text.trim() === "" ? undefined : decimal(text);
        const wrong = v === undefined ? undefined : refused(s, v);
        if (wrong === undefined) measure(s, v === undefined ? undefined : Math.round(v));
        return Promise.resolve(wrong && `“${text}” is no such voltage; ${wrong}`);
      }}
    />
  );
}
