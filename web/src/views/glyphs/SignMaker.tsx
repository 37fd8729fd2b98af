import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import type { Schemas } from "../../api/client";
import { animateQuery, signsQuery } from "../../api/glyphs";
import { Cells } from "../../parts/dots/Cells";
import { time } from "../../ui/numbers";
import { useBench } from "../../work/BenchContext";
import { trimmed, type Target } from "../../work/glyphs";
import { reason } from "../../work/reason";
import { Bare } from "../../ui/Bare";
import { Count } from "./PicturePanel";
import { usePut } from "./usePut";
import css from "./MakePanel.module.css";

/** Signs that fill or move, and what it costs to move one: by its slot, or by its cells. */
export function SignMaker({ onChoose }: { onChoose: (t: Target) => void }) {
  const { bench, setup } = useBench();
  const { add, refused } = usePut();
  const { data: shipped } = useQuery(signsQuery);
  const [at, setAt] = useState(1);
  const [cells, setCells] = useState(4);
  const own = framesOf(bench.glyphs ?? []);
  const signs = [...(shipped ?? []), ...own];
  const sign = signs[at] ?? signs[0];
  const frames = sign?.frames ?? [];
  const frame = useFrame(frames.length);
  const { data: costs, error } = useQuery({
    ...animateQuery({
      setup: { ...setup, joined: undefined },
      frames,
      cells: Array.from({ length: cells }, (_, i) => i),
    }),
    enabled: frames.length > 1,
  });
  const cheaper = costs && costs.slot.doneUs < costs.write.doneUs;
  return (
    <div className={css.maker}>
      <div className={css.signs} role="group" aria-label="Signs">
        {signs.map((s, i) => (
          <Bare key={s.name} aria-pressed={i === at} onClick={() => setAt(i)}>
            <Cells cells={[s.frames[frame % s.frames.length]?.rows ?? []]} cols={1} dot={5} />
            {s.name}
          </Bare>
        ))}
      </div>
      {sign && (
        <>
          <div className={css.glyphs}>
            {frames.map((f, i) => (
              <Cells key={i} cells={[f.rows]} cols={1} dot={3} />
            ))}
          </div>
          <div className={css.actions}>
            <Button
              variant="contained"
              onClick={() =>
                void add(
                  frames.map((f) => ({ rows: trimmed(f.rows) })),
                  sign.name,
                  ["frame", sign.name],
                ).then((keys) => keys?.[0] && onChoose({ kind: "drawing", key: keys[0] }))
              }
            >
              Add its {frames.length} frames to the library
            </Button>
          </div>
          <h2>To move it</h2>
          <div className={css.settings}>
            <Count label="Cells that show it" value={cells} most={8} onChange={setCells} />
          </div>
          {(error ?? refused) && <p role="alert">{refused ?? reason(error)}</p>}
          {costs && (
            <>
              <table className={css.costs}>
                <thead>
                  <tr>
                    <th scope="col">A frame, on average</th>
                    <th scope="col">Operations</th>
                    <th scope="col">Words on the wire</th>
                    <th scope="col">Until done</th>
                  </tr>
                </thead>
                <tbody>
                  <Way title="Draw its slot again" cost={costs.slot} frames={costs.frames} />
                  <Way
                    title={`Write ${cells === 1 ? "the cell" : `${cells} cells`} anew`}
                    cost={costs.write}
                    frames={costs.frames}
                  />
                </tbody>
              </table>
              <p className={css.fact} role="status">
                {cheaper
                  ? "Drawing the slot again is the cheap way here: all cells that show it change at once, and one slot is enough."
                  : `Writing the cells is cheaper here; it needs ${costs.slots} slots${costs.fits ? "" : ", which there are not"}. Drawing the slot again takes one, and costs the same however many cells show it.`}
              </p>
            </>
          )}
        </>
      )}
    </div>
  );
}

function Way({ title, cost, frames }: { title: string; cost: Schemas["WireCost"]; frames: number }) {
  const each = (n: number) => Number((n / frames).toFixed(1));
  return (
    <tr>
      <th scope="row">{title}</th>
      <td>{each(cost.operations)}</td>
      <td>{each(cost.words)}</td>
      <td>{time(cost.doneUs / frames)}</td>
    </tr>
  );
}

/** Drawings of the bench that share a tag beside “frame” are the frames of a sign. */
function framesOf(glyphs: readonly { rows: number[]; tags?: string[] }[]) {
  const by = new Map<string, { rows: number[] }[]>();
  for (const d of glyphs) {
    const name = d.tags?.includes("frame") ? d.tags.find((t) => t !== "frame") : undefined;
    if (name) by.set(name, [...(by.get(name) ?? []), { rows: d.rows }]);
  }
  return [...by].filter(([, f]) => f.length > 1).map(([name, frames]) => ({ name: `${name}, of the bench`, frames }));
}

/** A frame after the other, twice a second; the first where motion is not wanted. */
function useFrame(frames: number): number {
  const [frame, setFrame] = useState(0);
  useEffect(() => {
    if (frames < 2 || window.matchMedia("(prefers-reduced-motion: reduce)").matches) return;
    const timer = window.setInterval(() => setFrame((f) => f + 1), 400);
    return () => window.clearInterval(timer);
  }, [frames]);
  return frame;
}
