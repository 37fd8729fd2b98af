import { useQuery } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef, type KeyboardEvent } from "react";
import { OPERATIONS_PAGE, operationsQuery } from "../../api/recordings";
import { Bare } from "../../ui/Bare";
import { digits } from "../../ui/numbers";
import { pressed } from "../../ui/shortcuts";
import { stamp } from "./time";
import css from "./Operations.module.css";

const ROW = 30;

interface Props {
  id: string;
  of: number;
  /** How many came up to the time that is looked at. */
  up: number;
  look: (ns: number) => void;
}

/** All operations with their times; that which came last is marked, and in sight. */
export function Operations({ id, of, up, look }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: of,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 6,
    initialRect: { width: 320, height: 300 },
  });
  useEffect(() => {
    if (up > 0) rows.scrollToIndex(up - 1, { align: "auto" });
  }, [up]); // eslint-disable-line react-hooks/exhaustive-deps
  // Where arrow keys lead; the focus goes along once the module is there.
  const goalRef = useRef<number>(undefined);
  useEffect(() => {
    if (goalRef.current !== up - 1) return;
    goalRef.current = undefined;
    box.current?.querySelector<HTMLElement>("[data-current]")?.focus();
  }, [up]);
  const items = rows.getVirtualItems();
  const first = Math.floor((items[0]?.index ?? 0) / OPERATIONS_PAGE);
  const last = Math.floor((items.at(-1)?.index ?? 0) / OPERATIONS_PAGE);
  const pages = [useQuery(operationsQuery(id, first)).data, useQuery(operationsQuery(id, last)).data];
  const list = new Map(pages.flatMap((p) => (p?.operations ?? []).map((o) => [o.index, o])));
  const onKeyDown = (e: KeyboardEvent) => {
    const way = { "↑": -1, "↓": 1 }[pressed("bytes", e) ?? ""];
    const to = way === undefined ? undefined : list.get((goalRef.current ?? up - 1) + way);
    if (!to) return;
    e.preventDefault();
    goalRef.current = to.index;
    look(to.atNs);
  };
  if (of === 0) return <p>No operation was recorded.</p>;
  return (
    <div ref={box} className={css.operations} role="list" aria-label="Operations" onKeyDown={onKeyDown}>
      <div style={{ height: rows.getTotalSize(), position: "relative" }}>
        {items.map((item) => {
          const o = list.get(item.index);
          return (
            <div
              key={item.key}
              role="listitem"
              className={css.row}
              style={{ transform: `translateY(${item.start}px)`, height: ROW }}
            >
              {o && (
                <Bare
                  tabIndex={o.index === Math.max(up - 1, 0) ? 0 : -1}
                  data-current={o.index === up - 1 || undefined}
                  data-lost={o.lost || undefined}
                  title={o.lost ? "Lost: the controller was busy" : undefined}
                  onClick={() => look(o.atNs)}
                >
                  <span>{stamp(o.atNs)}</span>
                  <code>
                    {o.rs ? "data" : "inst"} {digits(o.value)}
                  </code>
                  <span className={css.meaning}>
                    {o.rw ? "read · " : ""}
                    {o.second ? "E2 · " : ""}
                    {o.meaning}
                    {o.lost && " (lost)"}
                  </span>
                </Bare>
              )}
            </div>
          );
        })}
      </div>
    </div>
  );
}
