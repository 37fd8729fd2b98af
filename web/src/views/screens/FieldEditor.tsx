import { useState } from "react";
import type { FieldOf } from "../../api/client";
import { Choice } from "../../ui/Choice";
import { fieldKinds } from "../../work/fields";
import { decimal } from "../../ui/numbers";
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
        sample
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
      <Amount label="Cells" value={f.width} least={1} most={80} whole onChange={(width) => onChange({ width })} />
      {ranged && (
        <>
          <Amount
            label={f.kind === "elapsed" ? "From, s" : "Least"}
            value={f.range?.min ?? 0}
            onChange={(min) => onChange({ range: { ...f.range, min } })}
          />
          <Amount
            label={f.kind === "elapsed" ? "To, s" : "Greatest"}
            value={f.range?.max ?? 0}
            onChange={(max) => onChange({ range: { ...f.range, max } })}
          />
        </>
      )}
      {f.kind === "number" && (
        <>
          <Amount
            label="Decimals"
            value={f.digits?.decimals ?? 0}
            least={0}
            most={6}
            whole
            onChange={(decimals) => digits({ decimals: decimals || undefined })}
          />
          <Choice
            label="Further digits"
            value={f.digits?.cut ? "cut" : ""}
            onChange={(v) => digits({ cut: v === "cut" || undefined })}
          >
            <option value="">rounded</option>
            <option value="cut">cut off</option>
          </Choice>
          <Line label="Unit" value={f.digits?.unit ?? ""} onChange={(unit) => digits({ unit: unit || undefined })} />
          <Choice
            label="Sign"
            value={f.digits?.sign ?? ""}
            onChange={(v) => digits({ sign: (v || undefined) as "always" | undefined })}
          >
            <option value="">− only</option>
            <option value="always">+ and −</option>
            <option value="space">space or −</option>
          </Choice>
          <Choice
            label="Thousands"
            value={f.digits?.thousands ?? ""}
            onChange={(v) => digits({ thousands: (v || undefined) as "comma" | undefined })}
          >
            <option value="">1234</option>
            <option value="comma">1,234</option>
            <option value="point">1.234</option>
            <option value="apostrophe">1&apos;234</option>
            <option value="space">1 234</option>
          </Choice>
          <Choice
            label="Decimal mark"
            value={f.digits?.mark ?? ""}
            onChange={(v) => digits({ mark: (v || undefined) as "comma" | undefined })}
          >
            <option value="">point</option>
            <option value="comma">comma</option>
          </Choice>
          <label className={css.check}>
            <input
              type="checkbox"
              checked={f.digits?.zeros ?? false}
              onChange={(e) => digits({ zeros: e.target.checked || undefined })}
            />{" "}
            zeros in front
          </label>
        </>
      )}
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
      {f.kind !== "cursor" && f.kind !== "bar" && (
        <>
          <Choice
            label="Stands"
            value={f.look?.align ?? ""}
            onChange={(v) => look({ align: (v || undefined) as "left" | undefined })}
          >
            <option value="">
              {f.kind === "number" || f.kind === "elapsed" ? "right, as usual" : "left, as usual"}
            </option>
            <option value="left">left</option>
            <option value="centre">centre</option>
            <option value="right">right</option>
          </Choice>
          <Choice
            label="Free cells"
            value={f.look?.fill === "none" ? "none" : f.look?.fill ? "other" : ""}
            onChange={(v) => look({ fill: v === "other" ? "." : v || undefined })}
          >
            <option value="">spaces</option>
            <option value="other">another character</option>
            <option value="none">not written: old ones stay</option>
          </Choice>
          {f.look?.fill && f.look.fill !== "none" && (
            <Line
              label="Character"
              value={f.look.fill}
              onChange={(fill) => look({ fill: Array.from(fill).at(-1) ?? "." })}
            />
          )}
          <Choice
            label="Too long"
            value={f.look?.tooLong ?? ""}
            onChange={(v) => look({ tooLong: (v || undefined) as "cut" | undefined })}
          >
            <option value="">
              {f.kind === "number" || f.kind === "elapsed" ? "###, as usual" : "cut off, as usual"}
            </option>
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
      )}
      {f.kind === "bar" && (
        <>
          <Amount
            label="Dots a step"
            value={f.gauge?.dots ?? 1}
            least={1}
            most={5}
            whole
            onChange={(dots) => onChange({ gauge: { ...f.gauge, dots } })}
          />
          <Amount
            label="Dark between"
            value={f.gauge?.gap ?? 0}
            least={0}
            most={2}
            whole
            onChange={(gap) => onChange({ gauge: { ...f.gauge, gap } })}
          />
          <label className={css.check}>
            <input
              type="checkbox"
              checked={f.gauge?.centre ?? false}
              onChange={(e) => onChange({ gauge: { ...f.gauge, centre: e.target.checked || undefined } })}
            />{" "}
            zero in the middle
          </label>
          <label className={css.check}>
            <input
              type="checkbox"
              checked={f.gauge?.frame ?? false}
              onChange={(e) => onChange({ gauge: { ...f.gauge, frame: e.target.checked || undefined } })}
            />{" "}
            framed
          </label>
        </>
      )}
      <Amount
        label="Written a second"
        value={f.perSecond ?? 0}
        least={0}
        onChange={(perSecond) => onChange({ perSecond: perSecond || undefined })}
      />
    </div>
  );
}

interface LineProps {
  label: string;
  value: string;
  onChange: (value: string) => void;
  sample?: boolean;
}

function Line({ label, value, onChange, sample }: LineProps) {
  return (
    <label className={css.line}>
      {label}
      <input
        className="entry"
        data-sample={sample || undefined}
        value={value}
        maxLength={80}
        spellCheck={false}
        onChange={(e) => onChange(e.target.value)}
      />
    </label>
  );
}

interface AmountProps {
  label: string;
  value: number;
  least?: number;
  most?: number;
  whole?: boolean;
  onChange: (value: number) => void;
}

/** A number; what is none yet stays typed, and counts for nothing. */
function Amount({ label, value, least, most, whole, onChange }: AmountProps) {
  const [draft, setDraft] = useState<string>();
  const read = (text: string) => {
    const n = decimal(text.replace("−", "-"));
    const fits = text.trim() !== "" && Number.isFinite(n) && (!whole || Number.isInteger(n));
    return fits && n >= (least ?? -1e9) && n <= (most ?? 1e9) ? n : undefined;
  };
  return (
    <label className={css.line}>
      {label}
      <input
        className="entry"
        inputMode="decimal"
        value={draft ?? String(value)}
        aria-invalid={(draft !== undefined && read(draft) === undefined) || undefined}
        title={`${whole ? "A whole number" : "A number"}${least !== undefined ? `, ${least} or more` : ""}${most !== undefined ? `, at most ${most}` : ""}`}
        onChange={(e) => {
          setDraft(e.target.value);
          const n = read(e.target.value);
          if (n !== undefined) onChange(n);
        }}
        onBlur={() => setDraft(undefined)}
      />
    </label>
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
