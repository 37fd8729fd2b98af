import { useQuery } from "@tanstack/react-query";
import type { Glass as GlassState, Summary } from "../../api/client";
import { glassesQuery } from "../../api/queries";
import { Glass } from "../../parts/glass/Glass";
import { CELL_COLS, rowPitch } from "../../parts/glass/metrics";
import { tintOf } from "../../parts/glass/tints";
import css from "./BenchCard.module.css";

const WIDTH = 300;
const HEIGHT = 104;
const GAP = 6;

/** The modules of a bench, to scale with each other: boards in rows, each with what its glass shows first. */
export function Silhouettes({ bench }: { bench: Summary }) {
  const { modules } = bench;
  const { data: glasses } = useQuery(glassesQuery(bench.id, bench.revision));
  const { boards, scale } = laid(modules);
  return (
    <svg className={css.outline} viewBox={`0 0 ${WIDTH} ${HEIGHT}`} role="img" aria-label={titles(modules)}>
      <g transform={`scale(${scale})`}>
        {boards.map(({ x, y, w, h, rows, tint }, i) => (
          <g key={i} transform={`translate(${x} ${y})`}>
            <rect width={w} height={h} rx="3" className={css.board} />
            <rect x="5" y="5" width={w - 10} height={h - 10} rx="2" fill={tintOf(tint).ground} className={css.glass} />
            <Shown glass={glasses?.[i]} tint={tint} name={modules[i]?.name ?? ""} w={w - 10} h={h - 10} />
            <path
              visibility={glasses?.[i] ? "hidden" : undefined}
              d={Array.from({ length: rows }, (_, r) => `M9 ${11 + r * 7}h${w - 18}`).join("")}
              stroke={tintOf(tint).dot}
              className={css.text}
            />
          </g>
        ))}
      </g>
    </svg>
  );
}

interface ShownProps {
  glass: GlassState | null | undefined;
  tint: string | undefined;
  name: string;
  w: number;
  h: number;
}

/** A glass as it is simulated, as large as its window lets it. */
function Shown({ glass, tint, name, w, h }: ShownProps) {
  if (!glass) return null;
  const pitch = 2;
  const width = CELL_COLS * glass.cols * pitch;
  const height = rowPitch(glass) * glass.rows * pitch;
  const scale = Math.min(w / width, h / height);
  return (
    <foreignObject
      transform={`translate(${5 + (w - width * scale) / 2} ${5 + (h - height * scale) / 2}) scale(${scale})`}
      width={width}
      height={height}
      pointerEvents="none"
    >
      <Glass glass={glass} tint={tint} pitch={pitch} name={name} />
    </foreignObject>
  );
}

const titles = (modules: Summary["modules"]) =>
  modules.map((m) => `${m.name || "unnamed"}, ${m.cols} × ${m.rows}`).join("; ");

/** Lays boards into rows, and finds the scale at which all of them fit the picture. */
function laid(modules: Summary["modules"]) {
  for (let scale = 1.5; ; scale *= 0.9) {
    const room = WIDTH / scale;
    const boards = [];
    let x = 0;
    let y = 0;
    let deep = 0;
    for (const m of modules) {
      const w = 18 + m.cols * 4;
      const h = 16 + m.rows * 7;
      if (x > 0 && x + w > room) {
        x = 0;
        y += deep + GAP;
        deep = 0;
      }
      boards.push({ x, y, w, h, rows: m.rows, tint: m.tint });
      x += w + GAP;
      deep = Math.max(deep, h);
    }
    const fits = (y + deep) * scale <= HEIGHT && boards.every((b) => b.x + b.w <= room);
    if (fits || scale < 0.1) return { boards, scale };
  }
}
