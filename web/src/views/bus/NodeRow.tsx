import type { BusNode } from "../../api/client";
import { useBench } from "../../work/BenchContext";
import { Copy } from "../../ui/Copy";
import { Pads } from "./Pads";
import { List } from "../../ui/List";
import css from "./BusView.module.css";

/** One part on the bus: its address in every form, and what chooses it. */
export function NodeRow({ node: n }: { node: BusNode }) {
  const { bench, change, remedy } = useBench();
  const setChannel = (channel: number | undefined) =>
    change((b) => ({
      ...b,
      modules: b.modules.map((m, i) =>
        i === n.module ? { ...m, link: { ...m.link, outputs: { ...m.link.outputs, channel } } } : m,
      ),
      devices: b.devices?.map((d) => (d.id === n.id ? { ...d, channel } : d)),
    }));
  const { address } = n;
  const form = (text: string, what: string) => (
    <Copy text={text} what={`${what} of ${n.name}`}>
      <small>{what}</small> <code>{text}</code>
    </Copy>
  );
  return (
    <article className={css.node} data-clashes={n.clashes || undefined} aria-label={n.name}>
      <div className={css.who}>
        <h3>{n.name}</h3>
        <p>
          {n.part}
          {n.channel ? `, channel ${n.channel}` : ""}, fed {(n.fedMV / 1000).toFixed(1)} V{n.fixed && ", address fixed"}
        </p>
      </div>
      <div className={css.forms}>
        {form(address.hex, "7-bit")}
        {form(address.decimal, "decimal")}
        {form(address.binary, "binary")}
        {form(address.write, "write")}
        {form(address.read, "read")}
      </div>
      <div className={css.choose}>
        {n.pads && n.flips && (
          <Pads
            name={n.name}
            closed={n.pads}
            onFlip={(k) => n.flips?.[k] && remedy({ label: "", patch: [n.flips[k]] })}
          />
        )}
        {bench.bus?.multiplexer && n.path !== "/bus/multiplexer" && (
          <List
            aria-label={`Channel of ${n.name}`}
            value={n.channel ?? 0}
            onChange={(e) => setChannel(Number(e.target.value) || undefined)}
          >
            <option value={0}>on the bus itself</option>
            {Array.from({ length: 8 }, (_, i) => (
              <option key={i} value={i + 1}>
                channel {i + 1}
              </option>
            ))}
          </List>
        )}
        {n.choices.length > 1 && (
          <List
            aria-label={`Address of ${n.name}`}
            value={address.value}
            onChange={(e) => {
              const c = n.choices.find((o) => o.address === Number(e.target.value));
              if (c) remedy({ label: "", patch: [c.op] });
            }}
          >
            {!n.choices.some((c) => c.address === address.value) && (
              <option value={address.value}>{address.hex}: it cannot have</option>
            )}
            {n.choices.map((c) => (
              <option key={c.address} value={c.address}>
                {c.hex}
                {c.pads && (c.pads === "none" ? ", no pad" : `, ${c.pads}`)}
                {c.taken && ` (${c.taken})`}
              </option>
            ))}
          </List>
        )}
      </div>
    </article>
  );
}
