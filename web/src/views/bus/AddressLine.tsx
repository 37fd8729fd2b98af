import type { BusNode } from "../../api/client";
import { hex } from "../../ui/numbers";
import type { Match } from "../../parts/scan/match";
import { verdicts } from "../../parts/scan/match";
import css from "./AddressLine.module.css";

const FIRST = 0x08;
const LAST = 0x77;
const STEP = 8;
const x = (a: number) => 10 + (a - FIRST) * STEP;

/** The 112 addresses as a gauge: above it what is planned, below it what answered to the last scan. */
export function AddressLine({ nodes, matches }: { nodes: BusNode[]; matches: Match[] }) {
  const width = x(LAST) + 14;
  const places = [...new Set(nodes.map((n) => n.address.value))].sort((a, b) => a - b);
  return (
    <svg className={css.line} viewBox={`0 0 ${width} 108`} role="img" aria-label={says(nodes, matches)}>
      <rect className={css.family} x={x(0x20) - 3} y="44" width={8 * STEP - 2} height="18" />
      <rect className={css.family} x={x(0x38) - 3} y="44" width={8 * STEP - 2} height="18" />
      <text className={css.label} x={x(0x20) - 3} y="104">
        PCF8574
      </text>
      <text className={css.label} x={x(0x38) - 3} y="104">
        PCF8574A
      </text>
      <path className={css.rule} d={`M${x(FIRST)} 53H${x(LAST)}`} />
      {Array.from({ length: LAST - FIRST + 1 }, (_, i) => {
        const a = FIRST + i;
        const long = a % 16 === 0;
        return (
          <g key={a}>
            <path className={css.rule} d={`M${x(a)} ${long ? 47 : 50}V${long ? 59 : 56}`} />
            {long && (
              <text className={css.number} x={x(a)} y="73">
                {hex(a)}
              </text>
            )}
          </g>
        );
      })}
      {places.map((a) => {
        const here = nodes.filter((n) => n.address.value === a);
        const clash = here.some((n) => n.clashes);
        return (
          <g key={a} data-clash={clash || undefined} className={css.flag}>
            <title>{`${hex(a)}: ${here.map((n) => n.name).join(", ")}`}</title>
            <path d={`M${x(a)} 50V14`} />
            <path className={css.cloth} d={`M${x(a)} 14h26l-7 8 7 8h-26z`} />
            <text x={x(a) + 3} y="26">
              {hex(a).slice(2)}
            </text>
            {here.length > 1 && (
              <text className={css.times} x={x(a) + 30} y="26">
                ×{here.length}
              </text>
            )}
          </g>
        );
      })}
      {matches.map((m) => (
        <g key={m.hex + m.verdict} className={css.answer} data-verdict={m.verdict}>
          <title>{`${m.hex}: ${verdicts[m.verdict]}`}</title>
          <path d={`M${x(Number(m.hex))} 57v26`} />
          <circle cx={x(Number(m.hex))} cy="84" r="4.5" />
        </g>
      ))}
    </svg>
  );
}

function says(nodes: BusNode[], matches: Match[]): string {
  const planned = nodes.map((n) => `${n.name} at ${n.address.hex}`).join(", ");
  const scanned = matches.map((m) => `${m.hex} ${verdicts[m.verdict]}`).join(", ");
  return `Addresses. Planned: ${planned || "none"}.${scanned && ` Scanned: ${scanned}.`}`;
}
