import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Host, Plan } from "../../api/client";
import { catalogQuery } from "../../api/queries";
import { useBench } from "../../work/BenchContext";
import { useTable } from "../../work/useTable";
import { Choice } from "../../ui/Choice";
import { Field } from "../../ui/Field";
import css from "./Panel.module.css";

const OWN = "own";

/** The host: which board, its supply, and what each of its pins serves. */
export function HostPanel({ plan }: { plan: Plan }) {
  const { bench, change } = useBench();
  const { setHost } = useTable();
  const { data: catalog } = useQuery(catalogQuery);
  const [error, setError] = useState<string>();
  const host: Host = bench.host ?? {};
  const known = catalog?.hosts.find((h) => h.part === plan.host.part);
  const put = async (h: Host) => {
    const why = await setHost(h);
    setError(why);
    return why;
  };
  const setSupply = (next: Partial<NonNullable<Host["supply"]>>) =>
    change((b) => ({ ...b, host: { ...b.host, supply: { ...b.host?.supply, ...next } } }), "supply");
  return (
    <section className={css.panel} aria-label="Host">
      <h2>Host</h2>
      <Choice
        label="Board, by what is printed on its largest chip"
        value={known ? known.part : OWN}
        onChange={(v) =>
          void put(
            v === OWN
              ? { part: "My board", bearsMV: 3300, supply: host.supply, pins: host.pins }
              : { part: v, supply: host.supply },
          )
        }
      >
        {catalog?.hosts.map((h) => (
          <option key={h.part} value={h.part}>
            {h.title}
          </option>
        ))}
        <option value={OWN}>Another board</option>
      </Choice>
      {known && <p className={css.note}>{known.look}.</p>}
      {catalog && !known && (
        <>
          <Field
            label="What it is"
            value={host.part ?? ""}
            onChange={(v) => put({ ...host, part: v.trim() || "My board" })}
          />
          <Choice
            label="Its pins give and bear"
            value={host.bearsMV ?? 3300}
            onChange={(v) => void put({ ...host, bearsMV: Number(v) })}
          >
            <option value={3300}>3.3 V</option>
            <option value={5000}>5.0 V</option>
          </Choice>
          <Field
            label="Its pins in order, such as 4, 5, 21=SDA, 22=SCL"
            value={pinsText(host)}
            mono
            onChange={(v) => put({ ...host, pins: pinsOf(v) })}
          />
        </>
      )}
      <div className={css.two}>
        <Choice label="Fed from" value={host.supply?.from ?? "usb2"} onChange={(v) => setSupply({ from: v as "usb2" })}>
          <option value="usb2">USB 2.0 port</option>
          <option value="usb3">USB 3 port</option>
          <option value="supply">a supply</option>
          <option value="battery">a battery</option>
        </Choice>
        <Field
          label="which gives, mA"
          value={host.supply?.limitMA ? String(host.supply.limitMA) : ""}
          onChange={(v) => {
            const limitMA = v.trim() === "" ? undefined : Number(v);
            if (limitMA !== undefined && !(Number.isInteger(limitMA) && limitMA >= 0 && limitMA <= 20_000)) {
              return Promise.resolve(`${v}; expected whole milliamperes up to 20000, or nothing where it is not known`);
            }
            setSupply({ limitMA });
            return Promise.resolve(undefined);
          }}
        />
      </div>
      <Choice
        label="It lies"
        value={host.plugged ? "in" : "beside"}
        onChange={(v) => change((b) => ({ ...b, host: { ...b.host, plugged: v === "in" || undefined } }))}
      >
        <option value="beside">beside the breadboard</option>
        <option value="in">in the breadboard, if it fits</option>
      </Choice>
      {error && <p role="alert">{error}</p>}
      <h3>Pins</h3>
      <ul className={css.pins}>
        {plan.host.pins.map((p) => (
          <li key={p.label} data-state={p.uses?.length ? "taken" : p.plain ? "free" : "special"}>
            <code>{p.label}</code> {p.board && <small title="its number along the board">pin {p.board}</small>}{" "}
            {p.uses?.join(", ") ?? (p.plain ? "free" : (p.marks ?? []).map((m) => marks[m] ?? m).join(", "))}
          </li>
        ))}
      </ul>
    </section>
  );
}

const marks: Record<string, string> = {
  upload: "used by uploads",
  strap: "read at start",
  flash: "never: flash memory",
  input: "input only",
  analog: "analogue only",
  led: "light on the board",
  "no-open-drain": "not for a bus",
};

const pinsText = (h: Host) =>
  (h.pins ?? []).map((p) => (p.can?.length ? `${p.label}=${p.can.join("+")}` : p.label)).join(", ");

function pinsOf(text: string): Host["pins"] {
  return text
    .split(/[,;\s]+/)
    .filter(Boolean)
    .map((word) => {
      const [label = "", can] = word.split("=");
      return can ? { label, can: can.split("+") } : { label };
    });
}
