import { useState } from "react";
import type { FieldOf } from "../../api/client";
import { Choice } from "../../ui/Choice";
import { fieldKinds } from "../../work/fields";
import { Line } from "../../ui/Line";
import { NumberField } from "../../ui/NumberField";
import { Check } from "../../ui/Check";
import css from "./FieldsPanel.module.css";

interface Props {
  field: FieldOf;
  onChange: (next: Partial<FieldOf>) => void;
}

/** The settings of a field; those that its kind has. */
export function FieldEditor({ field: f, onChange }: Props) {
  const look = (next: NonNullable<FieldOf["look"]>) => onChange({ look: { ...f.look, ...next } });
  const digits = (next: NonNullable<FieldOf["digits"]>) => onChange({ digits: { ...f.digits, ...next } });
  const ranged = f.kind === "number" || f.kind === "elapsed" || f.kind === "bar";
  const listed = f.kind === "text" || f.kind === "choice";
  return (
    <div className={css.editor}>
      <Line
        label="Shows now"
        value={f.sample ?? ""}
        mark="sample"
        onChange={(sample) => onChange({ sample: sample || undefined })}
      />
      <Line label="Name" value={f.name} onChange={(name) => name.trim() && onChange({ name: name.slice(0, 40) })} />
      <Choice label="Kind" value={f.kind} onChange={(kind) => onChange({ kind: kind as FieldOf["kind"] })}>
        {Object.entries(fieldKinds).map(([kind, title]) => (
          <option key={kind} value={kind}>
            {title}
          </option>
        ))}
      </Choice>
      <NumberField label="Cells" value={f.width} from={1} to={80} whole onChange={(width) => onChange({ width })} />
      {ranged && (
        <>
          <NumberField
            label={f.kind === "elapsed" ? "From, s" : "Least"}
            value={f.range?.min ?? 0}
            onChange={(min) => onChange({ range: { ...f.range, min } })}
          />
          <NumberField
            label={f.kind === "elapsed" ? "To, s" : "Greatest"}
            value={f.range?.max ?? 0}
            onChange={(max) => onChange({ range: { ...f.range, max } })}
          />
        </>
      )}
      {f.kind === "number" && <Digits digits={f.digits ?? {}} set={digits} />}
      {f.kind === "clock" && (
        <Line label="Format, as strftime" value={f.format ?? "%H:%M"} onChange={(format) => onChange({ format })} />
      )}
      {f.kind === "elapsed" && (
        <Choice label="Format" value={f.format ?? "s"} onChange={(format) => onChange({ format })}>
          {["s", "m:ss", "h:mm:ss", "d hh:mm"].map((form) => (
            <option key={form}>{form}</option>
          ))}
        </Choice>
      )}
      {listed && (
        <List
          label={f.kind === "choice" ? "Words, from state 0 on, one a line" : "Texts, one a line"}
          field={f}
          onChange={onChange}
        />
      )}
      {f.kind !== "cursor" && f.kind !== "bar" && <Look field={f} set={look} />}
      {f.kind === "bar" && <Gauge gauge={f.gauge ?? {}} set={(next) => onChange({ gauge: { ...f.gauge, ...next } })} />}
      <NumberField
        label="Written a second"
        value={f.perSecond ?? 0}
        from={0}
        onChange={(perSecond) => onChange({ perSecond: perSecond || undefined })}
      />
    </div>
  );
}

type Part<K extends keyof FieldOf> = NonNullable<FieldOf[K]>;

/** How a number is written. */
function Digits({ digits: d, set }: { digits: Part<"digits">; set: (next: Part<"digits">) => void }) {
  return (
    <>
      <NumberField
        label="Decimals"
        value={d.decimals ?? 0}
        from={0}
        to={6}
        whole
        onChange={(decimals) => set({ decimals: decimals || undefined })}
      />
      <Choice
        label="Further digits"
        value={d.cut ? "cut" : ""}
        onChange={(v) => set({ cut: v === "cut" || undefined })}
      >
        <option value="">rounded</option>
        <option value="cut">cut off</option>
      </Choice>
      <Line label="Unit" value={d.unit ?? ""} onChange={(unit) => set({ unit: unit || undefined })} />
      <Choice
        label="Sign"
        value={d.sign ?? ""}
        onChange={(v) => set({ sign: (v || undefined) as "always" | undefined })}
      >
        <option value="">− only</option>
        <option value="always">+ and −</option>
        <option value="space">space or −</option>
      </Choice>
      <Choice
        label="Thousands"
        value={d.thousands ?? ""}
        onChange={(v) => set({ thousands: (v || undefined) as "comma" | undefined })}
      >
        <option value="">1234</option>
        <option value="comma">1,234</option>
        <option value="point">1.234</option>
        <option value="apostrophe">1&apos;234</option>
        <option value="space">1 234</option>
      </Choice>
      <Choice
        label="Decimal mark"
        value={d.mark ?? ""}
        onChange={(v) => set({ mark: (v || undefined) as "comma" | undefined })}
      >
        <option value="">point</option>
        <option value="comma">comma</option>
      </Choice>
      <Check checked={d.zeros ?? false} onChange={(e) => set({ zeros: e.target.checked || undefined })}>
        zeros in front
      </Check>
    </>
  );
}

/** How a text stands in its cells, and what becomes of one that is too long. */
function Look({ field: f, set }: { field: FieldOf; set: (next: Part<"look">) => void }) {
  return (
    <>
      <Choice
        label="Stands"
        value={f.look?.align ?? ""}
        onChange={(v) => set({ align: (v || undefined) as "left" | undefined })}
      >
        <option value="">{f.kind === "number" || f.kind === "elapsed" ? "right, as usual" : "left, as usual"}</option>
        <option value="left">left</option>
        <option value="centre">centre</option>
        <option value="right">right</option>
      </Choice>
      <Choice
        label="Free cells"
        value={f.look?.fill === "none" ? "none" : f.look?.fill ? "other" : ""}
        onChange={(v) => set({ fill: v === "other" ? "." : v || undefined })}
      >
        <option value="">spaces</option>
        <option value="other">another character</option>
        <option value="none">not written: old ones stay</option>
      </Choice>
      {f.look?.fill && f.look.fill !== "none" && (
        <Line
          label="Character"
          value={f.look.fill}
          onChange={(fill) => set({ fill: Array.from(fill).at(-1) ?? "." })}
        />
      )}
      <Choice
        label="Too long"
        value={f.look?.tooLong ?? ""}
        onChange={(v) => set({ tooLong: (v || undefined) as "cut" | undefined })}
      >
        <option value="">{f.kind === "number" || f.kind === "elapsed" ? "###, as usual" : "cut off, as usual"}</option>
        <option value="cut">cut off</option>
        {f.kind === "free" ? (
          <>
            <option value="page">goes on from the first cell</option>
            <option value="scroll">moves up to show its end</option>
          </>
        ) : (
          <>
            <option value="hashes">###</option>
            <option value="shift">the rest moves on</option>
          </>
        )}
      </Choice>
    </>
  );
}

/** What a bar is drawn with. */
function Gauge({ gauge: g, set }: { gauge: Part<"gauge">; set: (next: Part<"gauge">) => void }) {
  return (
    <>
      <NumberField label="Dots a step" value={g.dots ?? 1} from={1} to={5} whole onChange={(dots) => set({ dots })} />
      <NumberField label="Dark between" value={g.gap ?? 0} from={0} to={2} whole onChange={(gap) => set({ gap })} />
      <Check checked={g.centre ?? false} onChange={(e) => set({ centre: e.target.checked || undefined })}>
        zero in the middle
      </Check>
      <Check checked={g.frame ?? false} onChange={(e) => set({ frame: e.target.checked || undefined })}>
        framed
      </Check>
    </>
  );
}

/** A list of texts, a line each; empty lines at the end are not kept once it is left. */
function List({ label, field, onChange }: { label: string } & Props) {
  const [draft, setDraft] = useState<string>();
  return (
    <label className={css.texts}>
      {label}
      <textarea
        rows={Math.min(Math.max(field.values?.length ?? 0, 3), 8)}
        spellCheck={false}
        value={draft ?? (field.values ?? []).join("\n")}
        onChange={(e) => {
          setDraft(e.target.value);
          const values = e.target.value.split("\n").map((v) => v.slice(0, 80));
          while (values.at(-1) === "") values.pop();
          onChange({ values: values.slice(0, 200) });
        }}
        onBlur={() => setDraft(undefined)}
      />
    </label>
  );
}
