import { useState, type KeyboardEvent } from "react";
import type { Chart, ChartCode } from "../../api/charts";
import { DotGrid } from "../../parts/dots/DotGrid";
import { dotPath } from "../../parts/dots/dotPath";
import { arrows } from "../../ui/arrows";
import { Bare } from "../../ui/Bare";
import { hex } from "../../ui/numbers";
import { useBench } from "../../work/BenchContext";
import { litAt, type Dot } from "../../work/glyphs";
import { amongCodes } from "./amongCodes";
import css from "./LearnRom.module.css";

interface Props {
  chart: Chart;
  /** Somebody has seen what a code shows. */
  onSee: (code: number, rows: number[]) => void;
}

const says = (c: ChartCode): string =>
  c.slot
    ? "a glyph of CGRAM"
    : c.sights === 0
      ? "no photograph yet"
      : `${c.char ?? "no character that is known"}; ${c.doubtful ? "doubtful, " : ""}its least sure dot is ${Math.round(100 * c.sure)} % sure`;

/** The chart as far as it is known; the dots of the chosen code can be set right by eye. */
export function LearnChart({ chart, onSee }: Props) {
  const [chosen, setChosen] = useState(() => chart.codes.find((c) => c.doubtful)?.code ?? 0x41);
  const code = chart.codes[chosen];
  return (
    <div className={css.chart}>
      <div className={css.codes} role="group" aria-label="The chart" onKeyDown={amongCodes}>
        {chart.codes.map((c) => (
          <Bare
            key={c.code}
            tabIndex={c.code === chosen ? 0 : -1}
            aria-pressed={c.code === chosen}
            aria-label={`Code ${hex(c.code)}: ${says(c)}`}
            data-doubtful={c.doubtful || undefined}
            data-differs={c.differs || undefined}
            data-slot={c.slot || c.sights === 0 || undefined}
            onClick={() => setChosen(c.code)}
            onFocus={() => setChosen(c.code)}
          >
            <svg viewBox={`0 0 5 ${c.rows.length}`} aria-hidden="true">
              <path d={dotPath(c.rows)} />
            </svg>
          </Bare>
        ))}
      </div>
      <p className={css.key}>
        <span data-doubtful>needs an eye</span>
        <span data-differs>other than in {chart.like}</span>
      </p>
      {code && <Eye code={code} onSee={onSee} />}
    </div>
  );
}

/** The dots of a code, large, to be held against the glass. */
function Eye({ code, onSee }: { code: ChartCode; onSee: Props["onSee"] }) {
  const { module } = useBench();
  const [at, setAt] = useState<Dot>({ x: 0, y: 0 });
  const sheet = { name: `code ${hex(code.code)}`, tags: [], cols: 1, rows: 1, cells: [code.rows] };
  const height = code.rows.length;
  const fixed = code.slot || code.sights === 0;
  const light = (dots: Dot[], lit: boolean) => {
    if (fixed) return;
    const rows = [...code.rows];
    for (const { x, y } of dots) rows[y] = lit ? (rows[y] ?? 0) | (16 >> x) : (rows[y] ?? 0) & ~(16 >> x);
    onSee(code.code, rows);
  };
  const onKey = (e: KeyboardEvent) => {
    const by = arrows[e.key];
    if (by)
      setAt({
        x: Math.min(4, Math.max(0, at.x + by[0])),
        y: Math.min(height - 1, Math.max(0, at.y + by[1])),
      });
    else if (e.key === " ") light([at], !litAt(sheet, height, at));
    else return;
    e.preventDefault();
  };
  return (
    <div className={css.eye} onKeyDown={onKey}>
      <DotGrid sheet={sheet} height={height} tint={module.display.tint} at={at} onAt={setAt} onLight={light} />
      <p>
        <b>{hex(code.code)}</b>
        <br />
        {says(code)}
        {!fixed && (
          <small>
            Where the glass shows it otherwise, click its dots, or go to them with the arrow keys and press Space.
          </small>
        )}
      </p>
    </div>
  );
}
