import Button from "@mui/material/Button";
import type { OwnPart, OwnPin, Plan } from "../../api/client";
import { Choice } from "../../ui/Choice";
import { Field } from "../../ui/Field";
import { Icon } from "../../ui/Icon";
import { useTable } from "../../work/useTable";
import { NumberField } from "../../ui/NumberField";
import { Quiet } from "../../ui/Quiet";
import css from "./Panel.module.css";

interface Props {
  part: OwnPart;
  plan: Plan | undefined;
  /** It was taken away. */
  onGone: () => void;
}

const rails = ["GND", "5V", "3V3"];

/** A part that the bench knows nothing of but what its maker says: its pins, what they are joined to, levels and currents. */
export function PartPanel({ part, plan, onGone }: Props) {
  const { setPart, removePart } = useTable();
  const pins = part.pins ?? [];
  const set = (next: Partial<OwnPart>) => setPart(part.id, next);
  const put = (at: number, next: Partial<OwnPin>) =>
    set({ pins: pins.map((p, i) => (i === at ? { ...p, ...next } : p)) });
  return (
    <section className={css.panel} aria-label="Part of your own">
      <h2>{part.name ?? part.id}</h2>
      <p className={css.note}>
        A radio, a motor driver: whatever else hangs on the host’s pins. It is wired and counted; the program knows
        nothing of it.
      </p>
      <Field
        label="Name"
        value={part.name ?? ""}
        onChange={(name) => {
          set({ name: name.trim().slice(0, 80) || undefined });
          return Promise.resolve(undefined);
        }}
      />
      <div className={css.two}>
        <Choice label="Fed" value={part.supplyMV ?? 0} onChange={(v) => set({ supplyMV: Number(v) || undefined })}>
          <option value={0}>as the host’s logic</option>
          <option value={3300}>3.3 V</option>
          <option value={5000}>5 V</option>
        </Choice>
        <NumberField
          label="Current, mA"
          value={part.currentMA || undefined}
          from={0}
          to={5000}
          onEmpty={() => set({ currentMA: undefined })}
          onChange={(v) => set({ currentMA: v || undefined })}
        />
      </div>
      <h3>Its pins</h3>
      <ol className={css.ownPins}>
        {pins.map((p, i) => (
          <li key={i} aria-label={`Pin ${p.name}`}>
            <Field
              label="Label"
              mono
              value={p.name}
              onChange={(text) => {
                const name = text.trim();
                if (name === "" || name.length > 12 || name.includes("/"))
                  return Promise.resolve(`“${text}”: 1 to 12 characters, without /`);
                if (pins.some((o, k) => k !== i && o.name === name)) return Promise.resolve(`${name} is another pin`);
                put(i, { name });
                return Promise.resolve(undefined);
              }}
            />
            <Choice label="joined to" value={p.to ?? ""} onChange={(to) => put(i, { to: to || undefined })}>
              <option value="">nothing</option>
              {rails.map((r) => (
                <option key={r} value={r}>
                  {r}
                </option>
              ))}
              {plan?.host.pins.map((o) => (
                <option key={o.label} value={o.label}>
                  {o.label}
                  {o.uses?.length && o.label !== p.to ? `, ${o.uses.join(", ")}` : ""}
                </option>
              ))}
              {p.to && !rails.includes(p.to) && !plan?.host.pins.some((o) => o.label === p.to) && (
                <option value={p.to}>{p.to}, which this host does not have</option>
              )}
            </Choice>
            <Quiet
              aria-label={`Take pin ${p.name} away`}
              title="Take it away (undo brings it back)"
              onClick={() => set({ pins: pins.filter((_, k) => k !== i) })}
            >
              <Icon name="bin" size={17} />
            </Quiet>
            {p.to && !rails.includes(p.to) && (
              <>
                <Choice
                  label="driven by"
                  value={p.drives ? "part" : "host"}
                  onChange={(v) => put(i, { drives: v === "part" || undefined })}
                >
                  <option value="host">the host</option>
                  <option value="part">the part</option>
                </Choice>
                <NumberField
                  label={p.drives ? "its high, V" : "high from, V"}
                  value={p.highMV ? p.highMV / 1000 : undefined}
                  from={0}
                  to={30}
                  step={0.1}
                  placeholder="not known"
                  onEmpty={() => put(i, { highMV: undefined })}
                  onChange={(v) => put(i, { highMV: Math.round(v * 1000) || undefined })}
                />
                <NumberField
                  label="takes, mA"
                  value={p.currentMA || undefined}
                  from={0}
                  to={5000}
                  onEmpty={() => put(i, { currentMA: undefined })}
                  onChange={(v) => put(i, { currentMA: v || undefined })}
                />
              </>
            )}
          </li>
        ))}
      </ol>
      <div className={css.more}>
        <Button
          variant="outlined"
          disabled={pins.length >= 24}
          onClick={() => {
            let n = pins.length + 1;
            while (pins.some((p) => p.name === `P${n}`)) n++;
            set({ pins: [...pins, { name: `P${n}` }] });
          }}
        >
          New pin
        </Button>
        <Button
          variant="outlined"
          onClick={() => {
            removePart(part.id);
            onGone();
          }}
        >
          Take it away
        </Button>
      </div>
    </section>
  );
}
