import { memo, useRef, type PointerEvent } from "react";
import { useQuery } from "@tanstack/react-query";
import { partOf, type Part, type Reading } from "../../api/recordings";
import { drag } from "../../ui/drag";
import { useWidth } from "../../ui/useWidth";
import { stamp } from "./time";
import type { Moved } from "./useWindow";
import css from "./Overview.module.css";

const HEIGHT = 34;

/** The whole recording: where something happens, which limits are broken, and the part that is in sight, which can be moved. */
export function Overview({ reading, moved }: { reading: Reading; moved: Moved }) {
  const box = useRef<HTMLDivElement>(null);
  const width = useWidth(box);
  const { w, whole } = moved;
  const columns = Math.max(Math.round(width / 2), 1);
  const { data } = useQuery({
    queryKey: ["recording overview", reading.id, columns],
    queryFn: () => partOf(reading.id, 0, Math.ceil(whole) + 1, columns),
    staleTime: Infinity,
  });
  const x = (ns: number) => (ns / whole) * width;
  const to = (e: { clientX: number }) => {
    const left = box.current?.getBoundingClientRect().left ?? 0;
    return Math.min(Math.max(((e.clientX - left) / width) * whole, 0), whole);
  };
  const onPointerDown = (e: PointerEvent<HTMLDivElement>) => {
    if (e.button !== 0) return;
    const t = to(e);
    const span = w.to - w.from;
    const within = span < whole && t >= w.from && t <= w.to;
    const off = within ? t - w.from : span / 2;
    if (!within) moved.show(t - off, t - off + span);
    moved.look(t);
    drag(e, {
      move: (ev) => {
        const now = to(ev);
        if (span < whole) moved.show(now - off, now - off + span);
        moved.look(now);
      },
    });
  };
  return (
    <div
      ref={box}
      className={css.overview}
      title="The whole recording; drag the part that is in sight, or click another"
      onPointerDown={onPointerDown}
    >
      <svg width={width} height={HEIGHT} role="img" aria-label={`The whole recording, ${stamp(whole)}`}>
        <Action data={data} reading={reading} whole={whole} width={width} />
        <rect
          className={css.seen}
          x={x(w.from) + 0.5}
          y={0.5}
          width={Math.max(x(w.to) - x(w.from) - 1, 3)}
          height={HEIGHT - 1}
          rx={3}
        />
        <path className={css.at} d={`M${x(w.at).toFixed(1)} 0V${HEIGHT}`} />
      </svg>
    </div>
  );
}

/** Where something happens, and which limits are broken; it is drawn anew when the width changes, not when one looks elsewhere. */
const Action = memo(function Action({
  data,
  reading,
  whole,
  width,
}: {
  data: Part | undefined;
  reading: Reading;
  whole: number;
  width: number;
}) {
  const x = (ns: number) => Math.round((ns / whole) * width * 2) / 2;
  const seen = new Set<number>();
  for (const c of data?.channels ?? []) {
    for (const t of c.turns) seen.add(x(t));
    for (let i = 0; i + 1 < c.busy.length; i += 2) seen.add(x(((c.busy[i] ?? 0) + (c.busy[i + 1] ?? 0)) / 2));
  }
  const broken = new Set(reading.broken.map((b) => x(b.atNs)));
  const lines = (at: Set<number>, from: number, to: number) => [...at].map((px) => `M${px} ${from}V${to}`).join("");
  return (
    <>
      <path className={css.action} d={lines(seen, 8, HEIGHT - 8)} />
      <path className={css.broken} d={lines(broken, 0, HEIGHT)} />
    </>
  );
});
