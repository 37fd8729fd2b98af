import { useState } from "react";
import type { BusNode, Module, OwnPart, Plan } from "../../api/client";
import { useBench } from "../../work/BenchContext";
import { useTable } from "../../work/useTable";
import { Gauge } from "../../parts/supply/Gauge";
import { Icon } from "../../ui/Icon";
import { StateDot } from "../../ui/StateDot";
import { ModuleTile } from "./ModuleTile";
import { Term } from "../../ui/Term";
import { Bare } from "../../ui/Bare";
import { Quiet } from "../../ui/Quiet";
import css from "./TableDrawing.module.css";

/** Something on the table. */
export interface Thing {
  kind: "host" | "module" | "device" | "part" | "new";
  id: string;
}

interface Props {
  plan: Plan;
  picked: Thing;
  onPick: (t: Thing) => void;
}

/** Host and supply at the left; the bus with what hangs on it, and modules with lines of their own, at the right. */
export function TableDrawing({ plan, picked, onPick }: Props) {
  const { bench, module, addModules } = useBench();
  const { addPart } = useTable();
  const [short, setShort] = useState<string>();
  const { host } = plan;
  const amiss = plan.findings.some((f) => f.severity !== "note" && (f.path ?? "").startsWith("/host"));
  const used = host.pins.filter((p) => p.uses?.length).length;
  const direct = bench.modules.filter((m) => m.link.kind !== "backpack");
  const channels = [...new Set(plan.nodes.map((n) => n.channel ?? 0))].sort((a, b) => a - b);
  if (!channels.includes(0)) channels.unshift(0);
  const clock = (bench.bus?.speedHz ?? 100_000) / 1000;
  return (
    <div className={css.drawing}>
      <div className={css.shore}>
        <Bare
          className={css.host}
          aria-pressed={picked.kind === "host"}
          onClick={() => onPick({ kind: "host", id: "host" })}
        >
          <b>
            {host.part} <StateDot open={amiss} title={amiss ? "findings open" : "nothing found"} />
          </b>
          <small>
            host, {(host.logicMV / 1000).toFixed(1)} V{bench.host?.part ? "" : ", not named yet"}
          </small>
          <PinStrip plan={plan} />
          <small>
            {used} pins taken, {host.free} free
          </small>
        </Bare>
        <div className={css.supply} role="group" aria-label="Supply">
          {plan.rails.map((r) => (
            <Gauge key={r.name} rail={r} />
          ))}
        </div>
      </div>
      <div className={css.lanes}>
        {short && <p role="alert">{short}</p>}
        {channels.map((channel) => (
          <section key={channel} className={css.lane} aria-label={channel ? `Channel ${channel}` : "Bus"}>
            <h2>
              {channel ? `Channel ${channel} of the multiplexer` : <Term of="bus">Bus</Term>}{" "}
              {!channel && (
                <small>
                  SDA {host.sda}, SCL {host.scl}, {clock} kHz
                </small>
              )}
              {!channel && (
                <span className={css.adding}>
                  <Bare
                    className={css.add}
                    title={`One like ${module.name || "the module on the dock"}`}
                    onClick={() => void addModules(module, 1).then(setShort)}
                  >
                    <Icon name="plus" size={15} /> Module
                  </Bare>
                  <Bare className={css.add} onClick={() => onPick({ kind: "new", id: "" })}>
                    <Icon name="plus" size={15} /> Device
                  </Bare>
                  <Bare
                    className={css.add}
                    title="Anything else on the host’s pins: a radio, a motor driver"
                    disabled={(bench.parts ?? []).length >= 16}
                    onClick={() => onPick({ kind: "part", id: addPart() })}
                  >
                    <Icon name="plus" size={15} /> Other part
                  </Bare>
                </span>
              )}
            </h2>
            <div className={css.row}>
              {bench.bus?.converter && !channel && (
                <div className={css.berth}>
                  <BusLines />
                  <p className={css.box}>level converter</p>
                </div>
              )}
              {plan.nodes
                .filter((n) => (n.channel ?? 0) === channel)
                .map((n) => (
                  <Berth key={n.path} node={n} picked={picked} onPick={onPick} chosen={module.id} />
                ))}
            </div>
          </section>
        ))}
        {direct.length > 0 && (
          <section className={css.lane} aria-label="Lines of their own">
            <h2>
              Lines of their own <small>no bus, no address</small>
            </h2>
            <div className={css.row}>
              {direct.map((m) => (
                <div key={m.id} className={css.berth}>
                  <Ribbon module={m} />
                  <ModuleTile
                    module={m}
                    chosen={picked.kind === "module" && m.id === module.id}
                    onChoose={() => onPick({ kind: "module", id: m.id })}
                  />
                </div>
              ))}
            </div>
          </section>
        )}
        {(bench.parts ?? []).length > 0 && (
          <section className={css.lane} aria-label="Other parts">
            <h2>
              Other parts <small>as you describe them</small>
            </h2>
            <div className={css.row}>
              {(bench.parts ?? []).map((p, i) => (
                <OwnTile
                  key={p.id}
                  part={p}
                  amiss={plan.findings.some((f) => f.severity !== "note" && (f.path ?? "").startsWith(`/parts/${i}/`))}
                  picked={picked.kind === "part" && picked.id === p.id}
                  onPick={() => onPick({ kind: "part", id: p.id })}
                />
              ))}
            </div>
          </section>
        )}
      </div>
    </div>
  );
}

interface OwnTileProps {
  part: OwnPart;
  amiss: boolean;
  picked: boolean;
  onPick: () => void;
}

/** A part of the maker's own: a slab with its pins, each with a flag that says where it goes. */
function OwnTile({ part, amiss, picked, onPick }: OwnTileProps) {
  const pins = part.pins ?? [];
  return (
    <Bare className={css.own} aria-pressed={picked} onClick={onPick}>
      <b>
        <StateDot open={amiss} title={amiss ? "findings open" : "nothing found"} /> {part.name ?? part.id}
      </b>
      {pins.length === 0 && <small>no pins yet</small>}
      {pins.map((p) => (
        <span key={p.name} className={css.flag} data-open={!p.to || undefined}>
          <code>{p.name}</code>
          <i aria-hidden="true">{p.drives ? "→" : "←"}</i>
          <small>{p.to ?? "open"}</small>
        </span>
      ))}
    </Bare>
  );
}

interface BerthProps {
  node: BusNode;
  picked: Thing;
  onPick: (t: Thing) => void;
  /** Id of the module on the dock. */
  chosen: string;
}

/** One thing on the bus, hanging from its two lines. */
function Berth({ node, picked, onPick, chosen }: BerthProps) {
  const { bench } = useBench();
  const { addDevice, removeDevice } = useTable();
  const module = node.module === undefined ? undefined : bench.modules[node.module];
  const device = module ? undefined : (bench.devices ?? []).find((d) => d.id === node.id);
  return (
    <div className={css.berth} data-clashes={node.clashes || undefined}>
      <BusLines leads />
      <code className={css.address} title={node.clashes ? "Another part answers here too" : "Address"}>
        {node.address.hex}
      </code>
      {module ? (
        <ModuleTile
          module={module}
          chosen={picked.kind === "module" && module.id === chosen}
          onChoose={() => onPick({ kind: "module", id: module.id })}
        />
      ) : (
        <article className={css.device} aria-label={node.name}>
          <Bare
            className={css.chip}
            disabled={!device}
            aria-pressed={picked.kind === "device" && picked.id === node.id}
            onClick={() => device && onPick({ kind: "device", id: device.id })}
          >
            <span>{node.part}</span>
          </Bare>
          <h3>
            <StateDot
              open={node.clashes ?? false}
              title={node.clashes ? "another part answers here too" : "nothing found"}
            />{" "}
            {node.name}
          </h3>
          <p>{node.what}</p>
          {device && (
            <div className={css.doing}>
              <Quiet
                title="Add one like it"
                aria-label={`Add one like ${node.name}`}
                onClick={() => onPick({ kind: "device", id: addDevice(device) })}
              >
                <Icon name="plus" size={17} />
              </Quiet>
              <Quiet
                title="Take it away (undo brings it back)"
                aria-label={`Take ${node.name} away`}
                onClick={() => removeDevice(device.id)}
              >
                <Icon name="bin" size={17} />
              </Quiet>
            </div>
          )}
        </article>
      )}
    </div>
  );
}

/** The bus's two lines above a berth, and its leads to them. */
function BusLines({ leads }: { leads?: boolean }) {
  return (
    <svg className={css.lines} viewBox="0 0 100 36" preserveAspectRatio="none" aria-hidden="true">
      <path data-line="sda" d="M0 7H100" />
      <path data-line="scl" d="M0 15H100" />
      {leads && <path data-line="sda" d="M48 7V36" />}
      {leads && <path data-line="scl" d="M52 15V36" />}
    </svg>
  );
}

const order = ["RS", "R/W", "E", "E2", "D0", "D1", "D2", "D3", "D4", "D5", "D6", "D7", "data", "clock", "latch"];

/** The host's pins that a module's lines are on, with a strand from each to the module. */
function Ribbon({ module }: { module: Module }) {
  const lines = Object.entries(module.link.pins ?? {}).sort(([a], [b]) => order.indexOf(a) - order.indexOf(b));
  if (lines.length === 0) return <p className={css.unpinned}>pins not chosen yet</p>;
  const step = 22;
  const says = lines.map(([line, pin]) => `${line} on ${pin}`).join(", ");
  return (
    <svg className={css.ribbon} width={lines.length * step} height="36" role="img" aria-label={says}>
      {lines.map(([line, pin], i) => (
        <g key={line} transform={`translate(${i * step + step / 2} 0)`}>
          <title>{`${line} on ${pin}`}</title>
          <path d="M0 17V36" />
          <rect x="-10" y="1" width="20" height="17" rx="2" />
          <text y="14">{pin.replace(/^GPIO|^GP/, "")}</text>
        </g>
      ))}
    </svg>
  );
}

/** The host's pins as they stand along its edges: taken, free, and those to leave alone. */
function PinStrip({ plan }: { plan: Plan }) {
  const { pins } = plan.host;
  const per = 12;
  return (
    <svg
      className={css.pins}
      viewBox={`0 0 ${per * 15} ${Math.ceil(pins.length / per) * 15}`}
      role="img"
      aria-label={`${pins.length} pins`}
    >
      {pins.map((p, i) => (
        <rect
          key={p.label}
          x={(i % per) * 15 + 2}
          y={Math.floor(i / per) * 15 + 2}
          width="11"
          height="11"
          rx="2"
          data-state={p.uses?.length ? "taken" : p.plain ? "free" : "special"}
        >
          <title>{`${p.label}: ${p.uses?.join(", ") ?? (p.plain ? "free" : (p.marks ?? []).join(", "))}`}</title>
        </rect>
      ))}
    </svg>
  );
}
