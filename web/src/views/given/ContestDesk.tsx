import Button from "@mui/material/Button";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import type { Bench } from "../../api/client";
import { beginContest, contestQuery, endContest, type GivenCopy } from "../../api/given";
import { Choice } from "../../ui/Choice";
import { faultyOf } from "../../work/setup";
import { reason } from "../../work/reason";
import css from "./GivenView.module.css";

const levels = ["Nothing to be read", "Wrong characters", "Any fault", "Two at once"];

interface Props {
  id: number;
  bench: Bench;
  copies: GivenCopy[];
}

/** Begins a contest, and shows how it stands: in each round the same fault is hidden for all. */
export function ContestDesk({ id, bench, copies }: Props) {
  const queries = useQueryClient();
  const { data } = useQuery(contestQuery(id));
  const [module, setModule] = useState(0);
  const [level, setLevel] = useState(3);
  const [rounds, setRounds] = useState(3);
  const [refused, setRefused] = useState("");
  const contest = data?.contest;
  const make = async (act: () => Promise<unknown>) => {
    try {
      await act();
      setRefused("");
    } catch (e) {
      setRefused(reason(e));
    }
    await queries.invalidateQueries({ queryKey: contestQuery(id).queryKey });
  };
  const of = bench.modules[module] ?? bench.modules[0];
  if (!of) return null;
  if (!contest)
    return (
      <section aria-label="Contest" className={css.card}>
        <h2>A contest</h2>
        <p>Everybody looks for the same hidden faults, under Faults, Practise.</p>
        <Choice label="Module" value={String(module)} onChange={(v) => setModule(Number(v))}>
          {bench.modules.map((m, i) => (
            <option key={m.id} value={i}>
              {m.name || m.id}
            </option>
          ))}
        </Choice>
        <Choice label="How hard" value={String(level)} onChange={(v) => setLevel(Number(v))}>
          {levels.map((title, i) => (
            <option key={title} value={i + 1}>
              {title}
            </option>
          ))}
        </Choice>
        <Choice label="Rounds" value={String(rounds)} onChange={(v) => setRounds(Number(v))}>
          {[1, 2, 3, 4, 5, 6, 8, 10].map((n) => (
            <option key={n} value={n}>
              {n}
            </option>
          ))}
        </Choice>
        {refused && <p role="alert">{refused}</p>}
        <Button
          variant="outlined"
          onClick={() =>
            void make(() => beginContest(id, { bench: faultyOf(bench, of), module, screen: 0, level, rounds }))
          }
        >
          Begin a contest
        </Button>
      </section>
    );
  const standings = copies
    .map((c) => {
      const played = c.rounds.filter((r) => r.contest);
      return { to: c.to, played: played.length, score: played.reduce((sum, r) => sum + r.score, 0) };
    })
    .sort((a, b) => b.score - a.score);
  return (
    <section aria-label="Contest" className={css.card}>
      <h2>The contest</h2>
      <p>
        {contest.rounds} rounds at “{levels[contest.level - 1]}”.
      </p>
      <ol className={css.standings}>
        {standings.map((s) => (
          <li key={s.to}>
            <b>{s.to}</b> {s.score} points, {s.played} of {contest.rounds} played
          </li>
        ))}
      </ol>
      {refused && <p role="alert">{refused}</p>}
      <Button variant="outlined" color="inherit" onClick={() => void make(() => endContest(id))}>
        End the contest
      </Button>
    </section>
  );
}
