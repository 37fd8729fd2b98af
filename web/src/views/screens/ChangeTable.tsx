import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef, type CSSProperties, type KeyboardEvent } from "react";
import type { Screen } from "../../api/client";
import { Bare } from "../../ui/Bare";
import { arrows } from "../../ui/arrows";
import type { Matrix } from "./useMatrix";
import { ms } from "./rates";
import css from "./MatrixPanel.module.css";

const ROW = 42;
const COLUMN = 96;

/** A change, by the screens that it leads from and to. */
export interface Pointed {
  from: number;
  to: number;
}

interface Props {
  matrix: Matrix;
  screens: readonly Screen[];
  title: (at: number) => string;
  /** The screen that is open. */
  here: number;
  pointed: Pointed | undefined;
  point: (at: Pointed | undefined) => void;
  choose: (at: Pointed) => void;
}

/** Every screen to every other: arrow keys lead from change to change, and only what is in sight is drawn. */
export function ChangeTable({ matrix, screens, title, here, pointed, point, choose }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const along = (horizontal: boolean) => ({
    count: screens.length,
    getScrollElement: () => box.current,
    estimateSize: () => (horizontal ? COLUMN : ROW),
    horizontal,
    overscan: 4,
    initialRect: { width: 900, height: 400 },
  });
  const rows = useVirtualizer(along(false));
  const columns = useVirtualizer(along(true));
  // Where arrow keys lead may be out of sight still: the focus goes there once it is drawn.
  const goal = useRef<Pointed>(undefined);
  useEffect(() => {
    const to = goal.current;
    const cell = to && box.current?.querySelector<HTMLElement>(`[data-change="${to.from} ${to.to}"]`);
    if (!cell) return;
    goal.current = undefined;
    cell.focus();
  });
  let dearest = 1;
  for (const row of matrix.rows.values()) for (const c of row.values()) dearest = Math.max(dearest, c.cost.doneUs);
  const last = screens.length - 1;
  const at = pointed ?? { from: here, to: here === 0 ? 1 : 0 };
  const onKeyDown = (e: KeyboardEvent) => {
    const ends: Record<string, [number, number]> = { Home: [-at.to, 0], End: [last - at.to, 0] };
    const way = arrows[e.key] ?? ends[e.key];
    if (!way || e.altKey || e.ctrlKey || e.metaKey) return;
    const to = { from: at.from + way[1], to: at.to + way[0] };
    if (to.from === to.to) {
      // There is no change to itself: on, or back from an end.
      const step = e.key === "Home" ? 1 : e.key === "End" ? -1 : way[0] || way[1];
      to[way[1] ? "from" : "to"] += step;
    }
    e.preventDefault();
    if (Math.min(to.from, to.to) < 0 || Math.max(to.from, to.to) > last) return;
    goal.current = to;
    point(to);
    rows.scrollToIndex(to.from, { align: "auto" });
    columns.scrollToIndex(to.to, { align: "auto" });
  };
  const shown = columns.getVirtualItems();
  const before = shown[0]?.start ?? 0;
  const after = columns.getTotalSize() - (shown.at(-1)?.end ?? 0);
  const items = rows.getVirtualItems();
  const padding = (height: number) => height > 0 && <tr style={{ height }} aria-hidden="true" />;
  const side = (width: number) => <td style={{ minWidth: width, padding: 0 }} aria-hidden="true" />;
  return (
    <div ref={box} className={css.scroll} onPointerLeave={() => point(undefined)} onKeyDown={onKeyDown}>
      <table className={css.matrix} aria-rowcount={screens.length + 1} aria-colcount={screens.length + 1}>
        <thead>
          <tr>
            <th scope="col">
              <span className="unseen">From</span>
            </th>
            {side(before)}
            {shown.map(({ index: to }) => (
              <th key={to} scope="col" data-here={to === here || undefined} title={title(to)}>
                {title(to)}
              </th>
            ))}
            {side(after)}
          </tr>
        </thead>
        <tbody>
          {padding(items[0]?.start ?? 0)}
          {items.map(({ index: from }) => (
            <tr key={from} aria-rowindex={from + 2}>
              <th scope="row" data-here={from === here || undefined} title={title(from)}>
                {title(from)}
              </th>
              {side(before)}
              {shown.map(({ index: to }) => {
                const c = matrix.rows.get(from)?.get(to);
                return (
                  <td key={to} aria-colindex={to + 2}>
                    {c && (
                      <Bare
                        tabIndex={from === at.from && to === at.to ? 0 : -1}
                        style={{ "--share": c.cost.doneUs / dearest } as CSSProperties}
                        data-change={`${from} ${to}`}
                        onPointerEnter={() => point({ from, to })}
                        onFocus={() => point({ from, to })}
                        onClick={() => choose({ from, to })}
                      >
                        <span className="unseen">
                          From {title(from)} to {title(to)}:{" "}
                        </span>
                        {ms(c.cost.doneUs)}
                        <span className="unseen"> ms</span>
                        {c.left > 0 && (
                          <sup>
                            {c.left}
                            <span className="unseen"> cells left over</span>
                          </sup>
                        )}
                      </Bare>
                    )}
                  </td>
                );
              })}
              {side(after)}
            </tr>
          ))}
          {padding(rows.getTotalSize() - (items.at(-1)?.end ?? 0))}
        </tbody>
      </table>
    </div>
  );
}
