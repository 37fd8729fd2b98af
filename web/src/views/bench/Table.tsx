import type { Bench } from "../../api/client";
import { hex } from "../../ui/numbers";
import css from "./BenchView.module.css";

/** What the modules are joined to: the host, its bus, and whatever else answers there. */
export function Table({ bench }: { bench: Bench }) {
  const { host, bus, devices = [] } = bench;
  const backpacks = bench.modules.filter((m) => m.link.kind === "backpack");
  const onBus = [
    ...backpacks.map((m) => ({
      key: m.id,
      name: m.name || "Unnamed module",
      part: "backpack",
      at: m.link.outputs.address,
    })),
    ...devices.map((d) => ({ key: d.id, name: d.name, part: d.part, at: d.address })),
  ].sort((a, b) => a.at - b.at);
  return (
    <section aria-label="Host and bus">
      <h2>Host and bus</h2>
      <p className="lead">
        {host?.part ?? "A host not named yet"}, pins bear {((host?.bearsMV ?? 5000) / 1000).toFixed(1)} V
        {onBus.length > 0 &&
          `; I²C at ${(bus?.speedHz ?? 100_000) / 1000} kHz${bus?.sda ? `, SDA ${bus.sda}, SCL ${bus.scl ?? "?"}` : ""}`}
      </p>
      {onBus.length > 0 && (
        <ol className={css.bus}>
          {onBus.map((d) => (
            <li key={d.key}>
              <code>{hex(d.at)}</code> {d.name} <small>{d.part}</small>
            </li>
          ))}
        </ol>
      )}
    </section>
  );
}
