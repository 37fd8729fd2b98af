import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Host, Plan } from "../../api/client";
import { catalogQuery, ownHostsQuery } from "../../api/queries";
import { useBench } from "../../work/BenchContext";
import { useTable } from "../../work/useTable";
import { Choice } from "../../ui/Choice";
import { Field } from "../../ui/Field";
import { Term } from "../../ui/Term";
import css from "./Panel.module.css";

const OWN = "own";
/** Before the name of a board that another bench describes. */
const KEPT = "kept ";

/** The host: which board, its supply, and what each of its pins serves. */
export function HostPanel({ plan }: { plan: Plan }) {
  const { bench, change } = useBench();
  const { setHost } = useTable();
  const { data: catalog } = useQuery(catalogQuery);
  const { data: kept } = useQuery(ownHostsQuery);
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
      <h2>
        <Term of="host">Host</Term>
      </h2>
      <Choice
        label="Board, by what is printed on its largest chip"
        value={known ? known.part : OWN}
        onChange={(v) => {
          const own = kept?.find((h) => KEPT + (h.part ?? "") === v);
          void put(
            own
              ? { ...own, supply: host.supply }
              : v === OWN
                ? { part: "My board", bearsMV: 3300, supply: host.supply, pins: host.pins, facts: host.facts }
                : { part: v, supply: host.supply },
          );
        }}
      >
        {catalog?.hosts.map((h) => (
          <option key={h.part} value={h.part}>
            {h.title}
          </option>
        ))}
        {kept
          ?.filter((h) => h.part !== host.part)
          .map((h) => (
            <option key={KEPT + h.part} value={KEPT + h.part}>
              {h.part}, as on another bench
            </option>
          ))}
        <option value={OWN}>{known ? "Another board" : (host.part ?? "Another board")}</option>
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
            label="Its pins in order, such as 4, 5, 21=SDA, 22=SCL, 34=input+adc"
            value={pinsText(host)}
            mono
            onChange={(v) => put({ ...host, pins: pinsOf(v) })}
          />
          <p className={css.note}>
            Behind a label: SDA, SCL, adc (reads a voltage), input (drives nothing), no-pull (no pull-up of its own),
            upload, strap, led.
          </p>
          <OwnFacts host={host} put={put} />
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
        <option value="in">in the breadboard, or over the edges of two</option>
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

const figures = [
  { key: "pinMA", label: "a pin gives, mA", most: 2000 },
  { key: "pinMaxMA", label: "and bears at most, mA", most: 2000 },
  { key: "allMA", label: "over all pins, mA", most: 20_000 },
  { key: "ownMA", label: "the board draws, mA", most: 20_000 },
  { key: "regulatorMA", label: "its 3.3 V gives, mA", most: 20_000 },
  { key: "bits", label: "its converter, bits", most: 16 },
] as const;

/** What else is known of a board that its user describes; what is left empty is not reckoned with. */
function OwnFacts({ host, put }: { host: Host; put: (h: Host) => Promise<string | undefined> }) {
  const facts = host.facts ?? {};
  return (
    <>
      <div className={css.two}>
        {figures.map((f) => (
          <Field
            key={f.key}
            label={f.label}
            value={facts[f.key] ? String(facts[f.key]) : ""}
            onChange={(v) => {
              const n = v.trim() === "" ? undefined : Number(v);
              if (n !== undefined && !(Number.isInteger(n) && n >= 0 && n <= f.most)) {
                return Promise.resolve(`${v}; expected a whole number up to ${f.most}, or nothing`);
              }
              return put({ ...host, facts: { ...facts, [f.key]: n } });
            }}
          />
        ))}
      </div>
      <Field
        label="Its references, V, such as 1.1 2.56"
        value={(facts.referencesMV ?? []).map((mV) => String(mV / 1000)).join(" ")}
        mono
        onChange={(v) => {
          const volts = v
            .replaceAll(",", ".")
            .split(/[\s;]+/)
            .filter(Boolean)
            .map(Number);
          if (volts.length > 4 || volts.some((n) => !(n >= 0.1 && n <= 5)))
            return Promise.resolve(`${v}; expected up to four voltages of 0.1 to 5`);
          const referencesMV = volts.length > 0 ? volts.map((n) => Math.round(n * 1000)) : undefined;
          return put({ ...host, facts: { ...facts, referencesMV } });
        }}
      />
      <Field
        label="Its serial lines, as number=RX/TX, such as 1=D19/D18"
        value={facts.serial ?? ""}
        mono
        onChange={(v) => put({ ...host, facts: { ...facts, serial: v.trim() || undefined } })}
      />
    </>
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
