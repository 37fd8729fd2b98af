import { useId } from "react";
import type { Entry } from "../../api/faults";
import { kinds, titleOf } from "./kinds";
import css from "./LogView.module.css";

const WIDTH = 760;
const LANE = 13;

/** The log at a glance: a lane for each kind, time from left to right. */
export function Strip({ entries }: { entries: Entry[] }) {
  const id = useId();
  if (entries.length < 2) return null;
  const times = entries.map((e) => Date.parse(e.at));
  const first = Math.min(...times);
  const last = Math.max(...times);
  const lanes = kinds.filter((k) => entries.some((e) => e.kind === k.kind));
  const x = (at: number) => 96 + ((at - first) / Math.max(last - first, 1)) * (WIDTH - 112);
  const height = lanes.length * LANE + 20;
  const day = (at: number) => new Date(at).toLocaleDateString();
  return (
    <svg
      className={css.strip}
      viewBox={`0 0 ${WIDTH} ${height}`}
      role="img"
      aria-labelledby={id}
      preserveAspectRatio="xMinYMin meet"
    >
      <title
        id={id}
      >{`${entries.length} entries from ${day(first)} to ${day(last)}: ${lanes.map((l) => `${l.title} ${entries.filter((e) => e.kind === l.kind).length}`).join(", ")}`}</title>
      {lanes.map((l, i) => (
        <g key={l.kind}>
          <text x="88" y={i * LANE + 12} textAnchor="end">
            {l.title}
          </text>
          <path className={css.lane} d={`M96 ${i * LANE + 8}H${WIDTH - 16}`} />
        </g>
      ))}
      {entries.map((e) => (
        <circle
          key={e.id}
          data-kind={e.kind}
          cx={x(Date.parse(e.at))}
          cy={lanes.findIndex((l) => l.kind === e.kind) * LANE + 8}
          r="4"
        >
          <title>{`${new Date(e.at).toLocaleString()}, ${titleOf(e.kind)}: ${e.text}`}</title>
        </circle>
      ))}
      <text x="96" y={height - 4}>
        {day(first)}
      </text>
      <text x={WIDTH - 16} y={height - 4} textAnchor="end">
        {day(last)}
      </text>
    </svg>
  );
}
