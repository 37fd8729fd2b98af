import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import type { Schemas } from "../../api/client";
import { scrollQuery } from "../../api/screens";
import { Findings } from "../../parts/findings/Findings";
import { Glass } from "../../parts/glass/Glass";
import { CELL_COLS } from "../../parts/glass/metrics";
import { groundOf } from "../../parts/glass/paint";
import { tintOf } from "../../parts/glass/tints";
import { Choice } from "../../ui/Choice";
import { Icon } from "../../ui/Icon";
import { placed, useBase } from "../../ui/places";
import { useRested } from "../../ui/useRested";
import { useBench } from "../../work/BenchContext";
import { lean } from "../../work/fields";
import { reason } from "../../work/reason";
import { withScreen } from "../../work/setup";
import { Quiet } from "../../ui/Quiet";
import { Dot } from "../../ui/Dot";
import css from "./ScrollPanel.module.css";

type Scroll = Schemas["Scroll"];
type Result = Schemas["ScrollResult"];

const USUAL_MS = 400;

const ways = [
  { by: "shift", title: "The module's own shift", what: "text in its memory; one instruction a step, all rows turn" },
  {
    by: "feed",
    title: "Shift, fed",
    what: "each character is written before it comes into sight: longer than the memory",
  },
  { by: "rewrite", title: "Rewritten", what: "the row is written again for every step; other rows stand still" },
] as const;

/** A row whose text, longer than the glass is wide, runs through it: three ways, what each costs, and how it looks. */
export default function ScrollPanel() {
  const work = useBench();
  const { module, screen, changeModule } = work;
  const base = useBase();
  const { scroll } = screen;
  const set = (next: Partial<Scroll> | undefined) =>
    changeModule((m) => withScreen(m, screen.id, (s) => ({ ...s, scroll: next && lean({ ...s.scroll, ...next }) })));
  const rows = Math.max(screen.rows.length, 1);
  const row = Math.min(scroll?.row ?? 0, rows - 1);
  const rested = useRested(work, [module.id, screen.id, JSON.stringify(scroll ?? {})].join());
  const setup = rested.setupOf(rested.module);
  return (
    <section className={css.panel} aria-label="Scroll">
      <p className="lead">
        What is typed beyond the right edge of a row can run through the glass. Choose the row and the way; the three
        are played by the simulated module.
      </p>
      <div className={css.settings}>
        <Choice label="Row" value={row} onChange={(v) => set({ by: scroll?.by ?? "rewrite", row: Number(v) })}>
          {Array.from({ length: rows }, (_, i) => (
            <option key={i} value={i}>
              {i + base}: {(screen.rows[i] ?? "").slice(0, 24) || "blank"}
            </option>
          ))}
        </Choice>
        <Choice label="A step every" value={scroll?.everyMs ?? USUAL_MS} onChange={(v) => set({ everyMs: Number(v) })}>
          {[50, 100, 150, 200, 250, 300, 400, 500, 750, 1000, ...(scroll?.everyMs ? [scroll.everyMs] : [])]
            .filter((v, i, all) => all.indexOf(v) === i)
            .sort((a, b) => a - b)
            .map((v) => (
              <option key={v} value={v}>
                {v} ms
              </option>
            ))}
        </Choice>
        <Choice label="Gap behind the text" value={scroll?.gap ?? 0} onChange={(v) => set({ gap: Number(v) })}>
          {[0, 1, 2, 3, 4, 6, 8, 16].map((n) => (
            <option key={n} value={n}>
              {n} {n === 1 ? "space" : "spaces"}
            </option>
          ))}
        </Choice>
        <Button disabled={!scroll?.by} onClick={() => set(undefined)}>
          Let it stand still
        </Button>
      </div>
      <ol className={css.ways}>
        {ways.map((w) => (
          <Way
            key={w.by}
            way={w}
            chosen={scroll?.by === w.by}
            setup={{ ...setup, scroll: { ...setup.scroll, by: w.by, row } }}
            everyMs={scroll?.everyMs ?? USUAL_MS}
            tint={module.display.tint}
            pulses={module.link.kind.startsWith("parallel")}
            onChoose={() => set({ by: w.by, row })}
          />
        ))}
      </ol>
    </section>
  );
}

interface WayProps {
  way: (typeof ways)[number];
  chosen: boolean;
  setup: ReturnType<ReturnType<typeof useBench>["setupOf"]>;
  everyMs: number;
  tint: string | undefined;
  pulses: boolean;
  onChoose: () => void;
}

function Way({ way, chosen, setup, everyMs, tint, pulses, onChoose }: WayProps) {
  const { data, error } = useQuery(scrollQuery(setup));
  const base = useBase();
  return (
    <li className={css.way} data-chosen={chosen || undefined}>
      <label className={css.choose}>
        <Dot name="scroll-by" checked={chosen} onChange={onChoose} />{" "}
        <span>
          <b>{way.title}</b>
          <span>{way.what}</span>
        </span>
      </label>
      {error && <p role="alert">{reason(error)}</p>}
      {data && (
        <>
          <Player data={data} everyMs={everyMs} tint={tint} name={way.title} />
          <p className={css.figures}>
            {data.frames.length > 0 ? (
              <>
                <b>
                  {data.step.words} {pulses ? (data.step.words === 1 ? "pulse" : "pulses") : "bytes"}
                </b>{" "}
                a step at most, {(data.step.doneUs / 1000).toFixed(2)} ms; {data.text} steps a round
                {data.begin.words > 0 && `; ${data.begin.words} ${pulses ? "pulses" : "bytes"} before the first`}
              </>
            ) : (
              "It cannot be done so:"
            )}
          </p>
          {chosen && data.findings.length > 0 && <Findings about="scrolling" findings={data.findings} />}
          {!chosen &&
            data.findings.map((f) => (
              <p key={f.code} className={css.found} data-severity={f.severity}>
                {placed(f.what, f.places, base)}
              </p>
            ))}
        </>
      )}
    </li>
  );
}

/** The frames of a round, one after the other; they can be stopped and gone through by hand. */
function Player({
  data,
  everyMs,
  tint,
  name,
}: {
  data: Result;
  everyMs: number;
  tint: string | undefined;
  name: string;
}) {
  const [frame, setFrame] = useState(0);
  const [plays, setPlays] = useState(() => !matchMedia("(prefers-reduced-motion: reduce)").matches);
  const count = data.frames.length;
  useEffect(() => {
    if (!plays || count < 2) return;
    const timer = window.setInterval(() => setFrame((f) => (f + 1) % (count - 1)), everyMs);
    return () => window.clearInterval(timer);
  }, [plays, count, everyMs]);
  const glass = data.frames[Math.min(frame, count - 1)];
  if (!glass) return null;
  const pitch = Math.max(1, Math.min(2.4, 280 / (glass.cols * CELL_COLS)));
  return (
    <div className={css.player}>
      <div className={css.glass} style={{ background: groundOf(glass, tintOf(tint)) }}>
        <Glass glass={glass} tint={tint} pitch={pitch} name={`${name}, frame ${frame}`} />
      </div>
      <Quiet aria-label={plays ? `Stop ${name}` : `Play ${name}`} onClick={() => setPlays(!plays)}>
        <Icon name={plays ? "pause" : "play"} size={17} />
      </Quiet>
      <Quiet
        aria-label={`One step on: ${name}`}
        onClick={() => {
          setPlays(false);
          setFrame((f) => (f + 1) % Math.max(count - 1, 1));
        }}
      >
        <Icon name="next" size={17} />
      </Quiet>
    </div>
  );
}
