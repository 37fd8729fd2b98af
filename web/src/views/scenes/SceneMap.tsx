import { useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import type { Finding } from "../../api/client";
import type { Input, Scene } from "../../api/plays";
import { ScreenPicture } from "../../parts/glass/ScreenPicture";
import { drag } from "../../ui/drag";
import { StateDot } from "../../ui/StateDot";
import { useBench } from "../../work/BenchContext";
import { Bare } from "../../ui/Bare";
import { CARD, curveOf, extent, LANE, leadsBack, spotsOf, type Spot } from "./layout";
import { endTitle, sceneTitle } from "../../work/showWords";
import css from "./SceneMap.module.css";

/** What is looked at: a scene, and one of its ends. */
export interface Choice {
  scene: string;
  end?: number;
}

interface Props {
  scenes: Scene[];
  inputs: Input[];
  start: string;
  /** The scene that is played. */
  current: string | undefined;
  choice: Choice | undefined;
  findings: Finding[];
  onChoose: (c: Choice) => void;
  /** Joins two scenes by an end. */
  onJoin: (from: string, to: string) => void;
  onRemove: (c: Choice) => void;
}

/** The scenes and what leads from one to another. A line is drawn from a scene's knob to the next; arrow keys move along. */
export function SceneMap({ scenes, inputs, start, current, choice, findings, onChoose, onJoin, onRemove }: Props) {
  const spots = spotsOf(scenes, start);
  const { lines, lanes } = ways(scenes, spots);
  const size = extent(spots.values());
  size.height += lanes * LANE;
  const area = useRef<HTMLDivElement>(null);
  const [line, setLine] = useState<{ from: string; x: number; y: number }>();

  const toScene = (x: number, y: number) =>
    scenes.find((s) => {
      const p = spots.get(s.id);
      return p && x >= p.x && x <= p.x + CARD.width && y >= p.y && y <= p.y + CARD.height;
    });
  const place = (e: { clientX: number; clientY: number }) => {
    const box = area.current?.getBoundingClientRect();
    return { x: e.clientX - (box?.left ?? 0), y: e.clientY - (box?.top ?? 0) };
  };
  const onKey = (e: KeyboardEvent) => {
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key];
    const here = choice && spots.get(choice.scene);
    if (way && here) {
      e.preventDefault();
      const next = nearest(spots, here, way[0] ?? 0, way[1] ?? 0);
      if (next === undefined) return;
      onChoose({ scene: next });
      area.current?.querySelector<HTMLElement>(`[data-scene="${next}"]`)?.focus();
    }
    if (e.key === "Delete" && choice) onRemove(choice);
  };
  return (
    <div className={css.map} role="group" aria-label="Scenes and what ends them" onKeyDown={onKey}>
      <div ref={area} className={css.area} style={{ width: size.width, height: size.height }}>
        <svg className={css.lines} width={size.width} height={size.height} aria-hidden="true">
          <defs>
            <marker id="scene-arrow" viewBox="0 0 8 8" refX="7" refY="4" markerWidth="8" markerHeight="8" orient="auto">
              <path d="M0 0 8 4 0 8z" />
            </marker>
          </defs>
          {lines.map(({ from, end, curve }) => (
            <path
              key={`${from.id} ${end}`}
              d={curve.path}
              data-chosen={(choice?.scene === from.id && choice.end === end) || undefined}
              data-from={from.id === current || undefined}
              markerEnd="url(#scene-arrow)"
            />
          ))}
          {line && <path className={css.drawn} d={`M${knob(spots.get(line.from))}L${line.x} ${line.y}`} />}
        </svg>
        {lines.map(({ from, to, end, curve }) => (
          <Bare
            key={`${from.id} ${end}`}
            className={css.end}
            style={{ left: curve.x, top: curve.y }}
            aria-pressed={choice?.scene === from.id && choice.end === end}
            aria-label={`${sceneTitle(from)} ends in ${sceneTitle(to)}: ${endTitle(from.ends?.[end] ?? { next: "" }, inputs)}`}
            onClick={() => onChoose({ scene: from.id, end })}
          >
            {endTitle(from.ends?.[end] ?? { next: "" }, inputs)}
          </Bare>
        ))}
        {scenes.map((s, i) => (
          <Card
            key={s.id}
            scene={s}
            spot={spots.get(s.id)}
            first={s.id === start}
            playing={s.id === current}
            chosen={choice?.scene === s.id}
            findings={findings.filter((f) => (f.path ?? "").match(/\/show\/scenes\/(\d+)/)?.[1] === String(i))}
            onChoose={() => onChoose({ scene: s.id })}
            onLine={(e) => {
              setLine({ from: s.id, ...place(e) });
              drag(e, {
                move: (ev) => setLine({ from: s.id, ...place(ev) }),
                end: (ev) => {
                  const p = place(ev);
                  const to = toScene(p.x, p.y);
                  if (to) onJoin(s.id, to.id);
                  setLine(undefined);
                },
                cancel: () => setLine(undefined),
              });
            }}
          />
        ))}
      </div>
    </div>
  );
}

interface CardProps {
  scene: Scene;
  spot: Spot | undefined;
  first: boolean;
  playing: boolean;
  chosen: boolean;
  findings: Finding[];
  onChoose: () => void;
  /** A line to another scene is begun. */
  onLine: (e: PointerEvent<HTMLElement>) => void;
}

function Card({ scene, spot, first, playing, chosen, findings, onChoose, onLine }: CardProps) {
  const { module, setupOf } = useBench();
  const at = module.screens.findIndex((s) => s.id === scene.screen);
  const open = findings.filter((f) => f.severity !== "note");
  const extra = [scene.off && "off", scene.edit?.field && "edit", scene.effect?.kind && moving[scene.effect.kind]]
    .filter(Boolean)
    .join(" ");
  const says = [
    first && "where it begins",
    scene.edit?.field && `edits ${scene.edit.field}`,
    playing && "played now",
    open.length > 0 && `${open.length} findings open`,
  ].filter(Boolean);
  return (
    <div className={css.place} style={{ left: spot?.x, top: spot?.y, width: CARD.width, height: CARD.height }}>
      <Bare
        className={css.card}
        data-scene={scene.id}
        data-playing={playing || undefined}
        data-off={scene.off || undefined}
        aria-pressed={chosen}
        aria-label={`Scene ${sceneTitle(scene)} ${extra}${says.length ? `: ${says.join(", ")}` : ""}`}
        onClick={onChoose}
      >
        {at >= 0 && (
          <ScreenPicture
            setup={setupOf(module, at)}
            tint={module.display.tint}
            name={sceneTitle(scene)}
            width={CARD.width - 20}
            most={1}
            className={css.picture}
          />
        )}
        <span className={css.name}>
          {first && <i className={css.first} title="The show begins here" />}
          {sceneTitle(scene)}
        </span>
        {extra && <span className={css.extra}> {extra}</span>}
      </Bare>
      {findings.length > 0 && (
        <span className={css.dot}>
          <StateDot open={open.length > 0} title={findings.map((f) => f.what).join("\n")} />
        </span>
      )}
      <span className={css.knob} title="Draw a line to the scene that follows" onPointerDown={onLine} />
    </div>
  );
}

const moving = { walk: "walks", scroll: "runs", shift: "shifts", slots: "moves" } as const;

/** Where a line begins that is drawn from a scene. */
const knob = (s: Spot | undefined): string => `${(s?.x ?? 0) + CARD.width} ${(s?.y ?? 0) + CARD.height - 14}`;

/** Every end as a line; those that lead back to one scene share a lane below all. */
function ways(scenes: Scene[], spots: Map<string, Spot>) {
  const seen = new Map<string, number>();
  const all = scenes.flatMap((from) =>
    (from.ends ?? []).flatMap((e, end) => {
      const a = spots.get(from.id);
      const b = spots.get(e.next);
      const to = scenes.find((s) => s.id === e.next);
      if (!a || !b || !to) return [];
      const key = `${from.id} ${e.next}`;
      const at = seen.get(key) ?? 0;
      seen.set(key, at + 1);
      return [{ from, to, end, a, b, at }];
    }),
  );
  const back = all.filter((w) => leadsBack(w.a, w.b));
  const targets = [...new Set(back.sort((v, w) => w.b.x - v.b.x).map((w) => w.to.id))];
  const y = Math.max(...[...spots.values()].map((s) => s.y), 0) + CARD.height;
  const lines = all.map((w) => {
    const from = back.filter((o) => o.from === w.from).indexOf(w);
    const at = targets.indexOf(w.to.id);
    return { ...w, curve: curveOf(w.a, w.b, w.at, { y, at: Math.max(at, 0), from: Math.max(from, 0) }) };
  });
  return { lines, lanes: targets.length };
}

/** The scene that lies nearest in a direction. */
function nearest(spots: Map<string, Spot>, from: Spot, dx: number, dy: number): string | undefined {
  let best: { id: string; far: number } | undefined;
  for (const [id, s] of spots) {
    const along = (s.x - from.x) * dx + (s.y - from.y) * dy;
    const across = Math.abs((s.x - from.x) * dy) + Math.abs((s.y - from.y) * dx);
    const far = along + 2 * across;
    if (along > 0 && (!best || far < best.far)) best = { id, far };
  }
  return best?.id;
}
