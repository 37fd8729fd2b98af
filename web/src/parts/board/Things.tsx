import { useQuery } from "@tanstack/react-query";
import { memo, type KeyboardEvent, type PointerEvent } from "react";
import type { Module, PinSpot, Thing } from "../../api/client";
import { glassQuery } from "../../api/glasses";
import { Glass } from "../glass/Glass";
import { CELL_COLS, rowPitch } from "../glass/metrics";
import { useBench } from "../../work/BenchContext";
import css from "./Board.module.css";

/** What can be done with a part; it stays the same, so that parts that did not change are not drawn again. */
export interface ThingActs {
  pick: (id: string) => void;
  key: (thing: Thing, e: KeyboardEvent) => void;
  down: (thing: Thing, e: PointerEvent) => void;
}

interface Props {
  thing: Thing;
  picked: boolean;
  /** Names of its pins that a finding or the picked net points at, one a line. */
  marked: string;
  acts: ThingActs;
}

/** A part as it lies on the table. */
export const ThingShape = memo(function ThingShape({ thing: t, picked, marked, acts }: Props) {
  const faces = t.kind === "module" || t.kind === "backpack";
  const pointed = marked.split("\n");
  const lies =
    t.placement === undefined ? "" : `, pin ${t.pins[0]?.name ?? ""} in ${t.pins[0]?.hole ?? ""}; arrow keys move it`;
  return (
    <g
      className={css.thing}
      data-kind={t.kind}
      data-picked={picked || undefined}
      data-thing={t.id}
      onClick={() => acts.pick(t.id)}
      onPointerDown={(e) => acts.down(t, e)}
    >
      <g
        className={css.hold}
        role="button"
        tabIndex={0}
        aria-pressed={picked}
        aria-label={`${t.name}${lies}`}
        onFocus={() => acts.pick(t.id)}
        onKeyDown={(e) => acts.key(t, e)}
      >
        <title>{`${t.name}: ${t.title}. ${t.for}`}</title>
        <Body thing={t} />
      </g>
      {faces && <Face thing={t} />}
      {t.pins.map((p) => (
        <PinShape key={p.name} thing={t} pin={p} marked={pointed.includes(p.name)} />
      ))}
      {labelled.has(t.kind) && <PinNames thing={t} />}
      {!faces && <Name thing={t} />}
    </g>
  );
});

function Name({ thing: t }: { thing: Thing }) {
  const short = {
    resistor: t.ohms,
    pot: t.ohms,
    knob: t.ohms,
    host: t.title,
    register: t.title,
    diode: t.title,
    capacitor: t.title,
  };
  const text = short[t.kind as keyof typeof short] ?? t.name;
  const inside = t.kind === "host" || t.kind === "device" || t.kind === "supply";
  if (!inside)
    return (
      <text className={css.partName} x={t.x + t.w / 2} y={t.y + t.h + 0.75}>
        {fitted(text, t.w + 2.5)}
      </text>
    );
  const lines = t.kind === "host" ? [text ?? ""] : wrapped(text ?? "", 9);
  return (
    <text className={css.bodyName} x={t.x + t.w / 2} y={t.y + t.h / 2 + (t.kind === "device" ? 1.9 : 0)}>
      {lines.map((l, i) => (
        <tspan key={l} x={t.x + t.w / 2} dy={i === 0 ? `${-(lines.length - 1) * 0.55}em` : "1.1em"}>
          {l}
        </tspan>
      ))}
    </text>
  );
}

/** A text cut to a width in pitches, so that names of neighbours do not stand on each other; the whole one is in the title. */
function fitted(text: string, width: number): string {
  const most = Math.max(Math.floor(width / LETTER), 6);
  return text.length > most ? `${text.slice(0, most - 1).trimEnd()}…` : text;
}

/** Width of a letter, in pitches. */
const LETTER = 0.42;

/** Words in lines of about so many characters. */
function wrapped(text: string, most: number): string[] {
  const lines: string[] = [];
  for (const word of text.split(" ")) {
    const last = lines[lines.length - 1];
    if (last !== undefined && last.length + word.length < most) lines[lines.length - 1] = `${last} ${word}`;
    else lines.push(word);
  }
  return lines;
}

/** How far two legs stand apart, and what turns a drawing along the x axis so that it lies between them. */
const between = (a: { x: number; y: number }, z: { x: number; y: number }) => ({
  turn: `translate(${a.x} ${a.y}) rotate(${(Math.atan2(z.y - a.y, z.x - a.x) * 180) / Math.PI})`,
  l: Math.hypot(z.x - a.x, z.y - a.y),
});

/** The part's body, drawn by what it is. */
function Body({ thing: t }: { thing: Thing }) {
  const [a, z] = [t.pins[0], t.pins[t.pins.length - 1]];
  if (!a || !z) return null;
  switch (t.kind) {
    case "resistor": {
      const bands = ["digit", "digit", "multiplier", "tolerance"];
      const { turn, l } = between(a, z);
      return (
        <g transform={turn}>
          <path className={css.leg} d={`M0 0H${l}`} />
          <rect className={css.resistor} x={l / 2 - 1.25} y="-0.45" width="2.5" height="0.9" rx="0.4" />
          {(t.bands ?? []).map((c, i) => (
            <rect
              key={bands[i] ?? i}
              className={css.band}
              data-colour={c}
              x={l / 2 - 0.95 + i * 0.5}
              y="-0.45"
              width="0.25"
              height="0.9"
            />
          ))}
        </g>
      );
    }
    case "diode":
    case "sensor":
    case "capacitor": {
      const { turn, l } = between(a, z);
      return (
        <g transform={turn}>
          <path className={css.leg} d={`M0 0H${l}`} />
          {t.kind === "diode" ? (
            <>
              <rect className={css.chip} x={l / 2 - 1} y="-0.4" width="2" height="0.8" rx="0.15" />
              <rect className={css.ring} x={l / 2 + 0.5} y="-0.4" width="0.25" height="0.8" />
            </>
          ) : (
            <circle className={t.kind === "sensor" ? css.resistor : css.chip} cx={l / 2} r="0.8" />
          )}
          {t.kind === "capacitor" && <rect className={css.ring} x={l / 2 + 0.35} y="-0.6" width="0.2" height="1.2" />}
        </g>
      );
    }
    case "knob":
    case "pot": {
      const [x, y] = [(a.x + z.x) / 2, (a.y + z.y) / 2];
      const angle = -135 + (1 - (t.turn ?? 0)) * 270;
      return (
        <>
          <rect className={css.pot} x={t.x} y={t.y - 0.9} width={t.w} height={t.h + 1.8} rx="0.3" />
          <circle className={css.knob} cx={x} cy={y} r="1.05" />
          <path className={css.slot} d="M0 0V-0.95" transform={`translate(${x} ${y}) rotate(${angle})`} />
        </>
      );
    }
    case "register": {
      const low = t.pins.find((p) => p.name === "QB") ?? a; // pin 1 is at the notch
      const notch = low.x < t.x + t.w / 2 ? t.x : t.x + t.w;
      return (
        <>
          <rect className={css.chip} x={t.x} y={t.y + 0.9} width={t.w} height={t.h - 1.8} rx="0.2" />
          <circle className={css.notch} cx={notch} cy={t.y + t.h / 2} r="0.45" />
          <circle className={css.dot} cx={low.x} cy={low.y + (low.y > t.y + t.h / 2 ? -0.75 : 0.75)} r="0.16" />
        </>
      );
    }
    case "transistor":
      return (
        <path
          className={css.chip}
          d={`M${t.x} ${a.y + 0.5}H${t.x + t.w}V${a.y - 0.2}Q${t.x + t.w / 2} ${a.y - 1.9} ${t.x} ${a.y - 0.2}Z`}
        />
      );
    case "button":
      return (
        <>
          <rect className={css.chip} x={t.x} y={t.y - 0.6} width={t.w} height={t.h + 1.2} rx="0.2" />
          <circle className={css.knob} cx={t.x + t.w / 2} cy={t.y + t.h / 2} r="0.75" />
        </>
      );
    case "host":
      return <Berths thing={t} />;
    case "module":
    case "backpack":
      return <Outline thing={t} />;
    default:
      return <rect className={css.body} x={t.x} y={t.y} width={t.w} height={t.h} rx="0.25" />;
  }
}

/** The host: its two rows of pins, no more; between them one can see what lies there. */
function Berths({ thing: t }: { thing: Thing }) {
  const rows = [...new Set(t.pins.map((p) => p.y))];
  return (
    <>
      <rect className={css.grip} x={t.x} y={t.y} width={t.w} height={t.h} />
      {rows.map((y) => {
        const xs = t.pins.filter((p) => p.y === y).map((p) => p.x);
        return <path key={y} className={css.spine} d={`M${Math.min(...xs) - 0.5} ${y}H${Math.max(...xs) + 0.5}`} />;
      })}
    </>
  );
}

/** Where a module's glass begins below its header: beyond the board that the header stands in. */
const faceTop = (t: Thing) => t.y + (t.placement === undefined ? 4.2 : 5.6);

/** A module: its header, an outline to see through, and the fold behind which its glass lies. */
function Outline({ thing: t }: { thing: Thing }) {
  const first = t.pins[0];
  const last = t.pins[t.pins.length - 1];
  const below = first !== undefined && first.y < t.y + t.h / 2;
  return (
    <>
      <rect className={css.outline} x={t.x} y={t.y} width={t.w} height={t.h} rx="0.25" />
      {first && last && (
        <rect
          className={css.header}
          x={Math.min(first.x, last.x) - 0.5}
          y={first.y - 0.5}
          width={Math.abs(last.x - first.x) + 1}
          height="1"
        />
      )}
      {below && <path className={css.fold} d={`M${t.x} ${faceTop(t) - 0.5}H${t.x + t.w}`} />}
    </>
  );
}

/** A module's glass, live: what the wires as they lie make of it. */
function Face({ thing: t }: { thing: Thing }) {
  const { bench } = useBench();
  const module = t.module === undefined ? undefined : bench.modules[t.module];
  return module && <LiveFace thing={t} module={module} />;
}

function LiveFace({ thing: t, module }: { thing: Thing; module: Module }) {
  const { setupOf } = useBench();
  const { data } = useQuery(glassQuery(setupOf(module)));
  if (!data) return null;
  const { glass } = data;
  const pitch = 2; // of a dot, in CSS pixels of the inner picture
  const [w, h] = [(glass.cols * CELL_COLS - 1) * pitch, (glass.rows * rowPitch(glass) - 1) * pitch];
  const top = faceTop(t);
  const room = { w: t.w - 2.4, h: t.y + t.h - top - 1.5 };
  const scale = Math.min(room.w / w, room.h / h);
  return (
    <>
      <text className={css.faceName} x={t.x + t.w / 2} y={t.y + t.h - 0.5}>
        {t.name}
      </text>
      <foreignObject
        transform={`translate(${t.x + (t.w - w * scale) / 2} ${top + (room.h - h * scale) / 2}) scale(${scale})`}
        width={w}
        height={h}
        pointerEvents="none"
      >
        <Glass glass={glass} tint={module.display.tint} pitch={pitch} name={t.name} />
      </foreignObject>
    </>
  );
}

function PinShape({ thing: t, pin: p, marked }: { thing: Thing; pin: PinSpot; marked: boolean }) {
  const middle = t.y + t.h / 2;
  return (
    <g data-pin={`${t.id}/${p.name}`}>
      <title>{`${t.name}, ${p.says}${p.hole ? `, hole ${p.hole}` : ""}${p.netCalled ? `, net ${p.netCalled}` : ""}. ${p.for ?? ""} ${p.open ?? ""}`}</title>
      {marked && <circle className={css.mark} cx={p.x} cy={p.y} r="0.75" />}
      {t.kind === "host" && (
        <path
          className={css.flag}
          data-used={p.net ? "" : undefined}
          d={`M${p.x - 0.4} ${p.y}h0.8v${p.y < middle ? 3 : -3}h-0.8z`}
        />
      )}
      {p.board !== undefined && (
        <text className={css.boardPin} x={p.x} y={p.y < middle ? p.y + 3.75 : p.y - 3.2}>
          {p.board}
        </text>
      )}
      <circle className={css.pin} data-used={p.net ? "" : undefined} cx={p.x} cy={p.y} r="0.26" />
    </g>
  );
}

const labelled = new Set(["host", "module", "backpack", "device", "supply"]);

/** Names of a part’s pins, upright beside them, in one group that is turned for all. */
function PinNames({ thing: t }: { thing: Thing }) {
  const middle = t.y + t.h / 2;
  return (
    <g transform="rotate(-90)">
      {t.pins.map((p) => {
        // A module in the board has its names inside, below the pins; the host's stand inside its edges.
        const y =
          t.kind === "module" || t.kind === "backpack" || t.kind === "device" || p.y < middle ? p.y + 1.5 : p.y - 0.7;
        return (
          <text
            key={p.name}
            className={t.kind === "host" ? css.flagName : css.pinName}
            data-used={p.net ? "" : undefined}
            x={-y}
            y={p.x + 0.25}
            textAnchor={y > p.y ? "end" : "start"}
          >
            {p.name.replace(/^GPIO|^GP(?=\d)/, "").replace(/^(GND|3V3)\d$/, "$1")}
          </text>
        );
      })}
    </g>
  );
}
