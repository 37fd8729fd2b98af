import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { client, unwrap, type Device, type Plan } from "../../api/client";
import { catalogQuery } from "../../api/queries";
import { useBench } from "../../work/BenchContext";
import { reason } from "../../work/reason";
import { planOf } from "../../work/setup";
import { useTable } from "../../work/useTable";
import { Choice } from "../../ui/Choice";
import { Field } from "../../ui/Field";
import { hex } from "../../ui/numbers";
import type { Thing } from "./TableDrawing";
import { NumberField } from "../../ui/NumberField";
import { Check } from "../../ui/Check";
import css from "./Panel.module.css";

interface Props {
  device: Device;
  plan: Plan | undefined;
  /** It was taken away. */
  onGone: () => void;
  onPick: (t: Thing) => void;
}

const OWN = "own";

/** Something else on the bus. */
export function DevicePanel({ device: d, plan, onGone, onPick }: Props) {
  const { bench } = useBench();
  const { setDevice, addDevice, removeDevice } = useTable();
  const { data: catalog } = useQuery(catalogQuery);
  const set = (next: Partial<Device>) => setDevice(d.id, next);
  const known = catalog?.parts.find((p) => p.name === d.part);
  const node = plan?.nodes.find((n) => n.id === d.id);
  const figure = (label: string, value: number | undefined, most: number, put: (v: number | undefined) => void) => (
    <NumberField
      label={label}
      value={value || undefined}
      from={0}
      to={most}
      onEmpty={() => put(undefined)}
      onChange={put}
    />
  );
  return (
    <section className={css.panel} aria-label="Device">
      <h2>{d.name || d.part || "A device"}</h2>
      <Field
        label="Name"
        value={d.name}
        onChange={(name) => {
          set({ name: name.trim() });
          return Promise.resolve(undefined);
        }}
      />
      <Choice
        label="Part"
        value={known ? d.part : OWN}
        onChange={(part) => {
          const p = catalog?.parts.find((o) => o.name === part);
          set({
            part: p ? part : "",
            address: p ? (p.addresses.includes(d.address) ? d.address : p.addresses[0]) : d.address,
          });
        }}
      >
        {catalog?.parts.map((p) => (
          <option key={p.name} value={p.name}>
            {p.name}: {p.what}
          </option>
        ))}
        <option value={OWN}>A part of my own</option>
      </Choice>
      {!known && (
        <Field
          label="Its designation"
          value={d.part}
          onChange={(part) => {
            set({ part: part.trim() });
            return Promise.resolve(undefined);
          }}
        />
      )}
      {!known && (
        <Field
          label="Addresses that it can have, in hexadecimal"
          placeholder="such as 48-4B 53"
          mono
          value={d.addresses ?? ""}
          onChange={async (text) => {
            const next = { addresses: text.trim() || undefined };
            const devices = bench.devices?.map((o) => (o.id === d.id ? { ...o, ...next } : o));
            try {
              unwrap(await client.POST("/api/plan", { body: { ...planOf(bench), devices } }));
            } catch (e) {
              return reason(e);
            }
            set(next);
            return undefined;
          }}
        />
      )}
      <div className={css.two}>
        <Choice label="Address" value={d.address} onChange={(v) => set({ address: Number(v) })}>
          {(node?.choices.map((c) => c.address) ?? [d.address]).map((a) => (
            <option key={a} value={a}>
              {hex(a)} = {a}
            </option>
          ))}
          {node && !node.choices.some((c) => c.address === d.address) && (
            <option value={d.address}>{hex(d.address)}, which it cannot have</option>
          )}
        </Choice>
        <Choice label="Fed" value={d.supplyMV ?? 0} onChange={(v) => set({ supplyMV: Number(v) || undefined })}>
          <option value={0}>as the host’s logic</option>
          <option value={3300}>3.3 V</option>
          <option value={5000}>5 V</option>
        </Choice>
        {figure("Pull-ups on its board, Ω", d.pullUpOhm, 1_000_000, (v) => set({ pullUpOhm: v && Math.round(v) }))}
        {figure("Current, mA", d.currentMA, 5000, (currentMA) => set({ currentMA }))}
        {bench.bus?.multiplexer && (
          <Choice label="On" value={d.channel ?? 0} onChange={(v) => set({ channel: Number(v) || undefined })}>
            <option value={0}>the bus itself</option>
            {Array.from({ length: 8 }, (_, i) => (
              <option key={i} value={i + 1}>
                channel {i + 1}
              </option>
            ))}
          </Choice>
        )}
      </div>
      <Check checked={d.fixed ?? false} onChange={(e) => set({ fixed: e.target.checked || undefined })}>
        its address is fixed: soldered on another board, say
      </Check>
      <div className={css.more}>
        <Button variant="outlined" onClick={() => onPick({ kind: "device", id: addDevice(d) })}>
          Add one like it
        </Button>
        <Button
          variant="outlined"
          onClick={() => {
            removeDevice(d.id);
            onGone();
          }}
        >
          Take it away
        </Button>
      </div>
    </section>
  );
}
