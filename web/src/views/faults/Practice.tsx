import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { beginRound, logQuery, type Entry, type Faulty, type RoundState } from "../../api/faults";
import { watchName } from "../../api/progress";
import { hideThere, putIn } from "../../api/realTable";
import { Working } from "../../parts/progress/Working";
import { Check } from "../../ui/Check";
import { useBench } from "../../work/BenchContext";
import { sentence } from "../../work/reason";
import { faultyOf } from "../../work/setup";
import { useRealTable } from "../../work/useRealTable";
import { ContestRounds } from "./ContestRounds";
import { Round } from "./Round";
import { Dot } from "../../ui/Dot";
import { ToView } from "../../parts/ToView";
import { isBare } from "../../work/typing/rows";
import css from "./Practice.module.css";

const levels = [
  { level: 1, title: "Nothing to be read", says: "Blocks, or nothing at all" },
  { level: 2, title: "Wrong characters", says: "Characters, and not those that were sent" },
  { level: 3, title: "Any fault", says: "Whatever shows" },
  { level: 4, title: "Two at once", says: "One hides the other" },
];

type Topic = Parameters<typeof beginRound>[1]["topic"];

const topics: { topic: Topic; title: string }[] = [
  { topic: undefined, title: "Any" },
  { topic: "wires", title: "Wiring" },
  { topic: "bus", title: "Bus" },
  { topic: "program", title: "Program" },
  { topic: "supply", title: "Supply" },
  { topic: "inputs", title: "Inputs" },
];

/** A fault is hidden in the simulated bench; the maker finds it, and what was done costs the minutes that it costs in life. */
export function Practice() {
  const { id, bench, module, screen } = useBench();
  const [level, setLevel] = useState(1);
  const [topic, setTopic] = useState<Topic>();
  const [round, setRound] = useState<{ of: Faulty; state: RoundState; there: boolean; contest?: number }>();
  const { table, by, drives } = useRealTable();
  const canBuild = drives && table?.standIn === true && table.bench === id;
  const [build, setBuild] = useState(true);
  const [refused, setRefused] = useState<string>();
  const [busy, setBusy] = useState(false);
  const [watch] = useState(watchName);
  const { data: log } = useQuery(logQuery(id, { kinds: "practice", module: "", text: "" }));
  const begin = async () => {
    const of = {
      bench: faultyOf(bench, module),
      module: bench.modules.indexOf(module),
      screen: module.screens.indexOf(screen),
    };
    setBusy(true);
    const there = canBuild && build;
    try {
      const state = await beginRound(of, { level, topic, built: there || undefined }, watch);
      if (there) await hideThere(by, state.id);
      setRound({ of, state, there });
      setRefused(undefined);
    } catch (e) {
      setRefused(sentence(e));
    }
    setBusy(false);
  };
  if (round)
    return (
      <Round
        key={round.state.id}
        of={round.of}
        state={round.state}
        there={round.there}
        contest={round.contest}
        onState={(state) => {
          setRound({ ...round, state });
          if (round.there && state.verdict) void hideThere(by, state.id).catch(() => undefined); // it is taken out
        }}
        onLeave={() => {
          if (round.there) void putIn(round.of.module, "").catch(() => undefined);
          setRound(undefined);
        }}
      />
    );
  return (
    <div className={css.start}>
      <ContestRounds
        entries={log?.entries ?? []}
        onBegun={(of, state, contest) => setRound({ of, state, there: false, contest })}
      />
      <section className={css.choose} aria-label="A round of practice">
        <h2>Find a hidden fault</h2>
        <p>
          A fault is hidden in the simulated {module.name || "module"}. Look, measure and try: each step costs the
          minutes that it costs in life. Name the fault when you are sure; your minutes are held against the best
          plan’s.
        </p>
        <fieldset>
          <legend>How hard</legend>
          {levels.map((l) => (
            <label key={l.level} className={css.option} data-on={l.level === level || undefined}>
              <Dot name="level" checked={l.level === level} onChange={() => setLevel(l.level)} aria-label={l.title} />
              <span>
                <b>{l.title}</b>
                <small>{l.says}</small>
              </span>
            </label>
          ))}
        </fieldset>
        <fieldset>
          <legend>About</legend>
          <div className={css.topics}>
            {topics
              .filter((t) => t.topic !== "bus" || module.link.kind === "backpack")
              .filter((t) => !(canBuild && build) || (t.topic !== "program" && t.topic !== "inputs"))
              .filter((t) => t.topic !== "inputs" || (module.show?.inputs ?? []).some((i) => i.pin))
              .map((t) => (
                <label key={t.title} className={css.topic} data-on={t.topic === topic || undefined}>
                  <Dot name="topic" checked={t.topic === topic} onChange={() => setTopic(t.topic)} />
                  {t.title}
                </label>
              ))}
          </div>
        </fieldset>
        {canBuild && (
          <Check checked={build} onChange={(e) => setBuild(e.target.checked)}>
            built into the stand-in, to be tested by its own host: no fault of the program, of its clock or of an input
            then
          </Check>
        )}
        {refused && <p role="alert">{refused}</p>}
        {isBare(screen.rows) && (
          <p>
            The screen has no text yet. <ToView view="screens">Type a text first</ToView>
          </p>
        )}
        <Button variant="contained" size="large" disabled={busy || isBare(screen.rows)} onClick={() => void begin()}>
          {busy ? "Hiding a fault…" : "Hide a fault"}
        </Button>
        {busy && <Working watch={watch} says="Simulating faults" />}
      </section>
      <Scores entries={log?.entries ?? []} />
    </div>
  );
}

/** Size of the drawing of scores, in CSS pixels. */
const W = 460;
const H = 190;

/** How rounds went, over time. */
function Scores({ entries }: { entries: Entry[] }) {
  const rounds = entries.filter((e) => e.round).reverse();
  if (rounds.length === 0)
    return (
      <section className={css.scores} aria-label="Your rounds">
        <h2>Your rounds</h2>
        <p>None yet. Each round is written into the log, and drawn here.</p>
      </section>
    );
  const shown = rounds.slice(-30);
  const x = (i: number) => 36 + (i * (W - 60)) / Math.max(shown.length - 1, 1);
  const y = (score: number) => H - 24 - (score * (H - 44)) / 100;
  const mean = Math.round(shown.reduce((sum, e) => sum + (e.round?.score ?? 0), 0) / shown.length);
  return (
    <section className={css.scores} aria-label="Your rounds">
      <h2>Your rounds</h2>
      <p>
        {rounds.length} played, {rounds.filter((e) => e.round?.right).length} found; {mean} of 100 on average in the
        last {shown.length}.
      </p>
      <svg width={W} height={H} role="img" aria-label={`Scores of the last ${shown.length} rounds, ${mean} on average`}>
        {[0, 50, 100].map((s) => (
          <g key={s}>
            <path className={css.grid} d={`M36 ${y(s)}H${W - 16}`} />
            <text x={30} y={y(s) + 4} textAnchor="end">
              {s}
            </text>
          </g>
        ))}
        <path className={css.line} d={`M${shown.map((e, i) => `${x(i)} ${y(e.round?.score ?? 0)}`).join("L")}`} />
        {shown.map((e, i) => (
          <circle key={e.id} cx={x(i)} cy={y(e.round?.score ?? 0)} r="4.5" data-right={e.round?.right || undefined}>
            <title>{`${new Date(e.at).toLocaleString()}: ${e.text}`}</title>
          </circle>
        ))}
        <text x={36} y={H - 4}>
          {new Date(shown[0]?.at ?? 0).toLocaleDateString()}
        </text>
        <text x={W - 16} y={H - 4} textAnchor="end">
          {new Date(shown.at(-1)?.at ?? 0).toLocaleDateString()}
        </text>
      </svg>
    </section>
  );
}
