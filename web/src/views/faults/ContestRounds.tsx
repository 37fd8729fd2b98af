import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Entry, Faulty, RoundState } from "../../api/faults";
import { beginContestRound, contestQuery } from "../../api/given";
import { watchName } from "../../api/progress";
import { Working } from "../../parts/progress/Working";
import { useBench } from "../../work/BenchContext";
import { sentence } from "../../work/reason";
import css from "./Practice.module.css";

interface Props {
  /** Of the log: rounds that were played. */
  entries: Entry[];
  onBegun: (of: Faulty, state: RoundState, nth: number) => void;
}

/** The rounds of a contest, where the bench was given out with one: all who play look for the same hidden faults. */
export function ContestRounds({ entries, onBegun }: Props) {
  const { id } = useBench();
  const { data } = useQuery(contestQuery(id));
  const [busy, setBusy] = useState(false);
  const [refused, setRefused] = useState("");
  const [watch] = useState(watchName);
  const contest = data?.contest;
  if (!contest) return null;
  const played = (nth: number) => entries.find((e) => e.round?.contest === nth)?.round;
  const rounds = Array.from({ length: contest.rounds }, (_, i) => i + 1);
  const next = rounds.find((nth) => !played(nth));
  const begin = async (nth: number) => {
    setBusy(true);
    try {
      const { bench, module, screen } = contest;
      onBegun({ bench, module, screen }, await beginContestRound(id, nth, watch), nth);
      setRefused("");
    } catch (e) {
      setRefused(sentence(e));
    }
    setBusy(false);
  };
  return (
    <section className={css.contest} aria-label="Contest">
      <h2>A contest</h2>
      <p>
        {contest.rounds} rounds; in each the same fault is hidden for all who play. Whoever gave this bench out sees the
        scores.
      </p>
      <ol>
        {rounds.map((nth) => {
          const r = played(nth);
          return (
            <li key={nth}>
              Round {nth}: {r ? `${r.right ? "found" : "not found"}, ${r.score} of 100` : "to be played"}
            </li>
          );
        })}
      </ol>
      {refused && <p role="alert">{refused}</p>}
      {next && (
        <Button variant="contained" disabled={busy} onClick={() => void begin(next)}>
          Play round {next}
        </Button>
      )}
      {busy && <Working watch={watch} says="Simulating faults" />}
    </section>
  );
}
