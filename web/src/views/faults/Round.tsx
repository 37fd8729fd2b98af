import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useState, type KeyboardEvent } from "react";
import { answerRound, askHint, catalogueQuery, inspect, type Faulty, type RoundState } from "../../api/faults";
import type { Setup } from "../../api/client";
import { watchName } from "../../api/progress";
import { actThere } from "../../api/realTable";
import { Glass } from "../../parts/glass/Glass";
import { CELL_COLS } from "../../parts/glass/metrics";
import { groundOf } from "../../parts/glass/paint";
import { tintOf } from "../../parts/glass/tints";
import { Working } from "../../parts/progress/Working";
import { StandInGlass } from "../../parts/glass/StandInGlass";
import { useBench } from "../../work/BenchContext";
import { reason } from "../../work/reason";
import { useNote } from "../../work/useLog";
import { pageName } from "../../work/pageName";
import { Verdict } from "./Verdict";
import { List } from "../../ui/List";
import { Bare } from "../../ui/Bare";
import css from "./Practice.module.css";

interface Props {
  of: Faulty;
  state: RoundState;
  /** The fault is built into the stand-in too. */
  there: boolean;
  /** Which round of a contest it is; undefined where it is of none. */
  contest?: number;
  onState: (s: RoundState) => void;
  onLeave: () => void;
}

/** A round under way: what the glass shows, what can be done, what was done, and the answer. */
export function Round({ of, state, there, contest, onState, onLeave }: Props) {
  const { module, setupOf } = useBench();
  const note = useNote();
  const by = pageName();
  const [refused, setRefused] = useState<string>();
  const [busy, setBusy] = useState(false);
  const [watch] = useState(watchName);
  const ask = async (what: () => Promise<RoundState>): Promise<RoundState | undefined> => {
    if (busy) return undefined;
    setBusy(true);
    try {
      const next = await what();
      onState(next);
      setRefused(undefined);
      return next;
    } catch (e) {
      setRefused(reason(e));
    } finally {
      setBusy(false);
    }
    return undefined;
  };
  const answer = async (faults: string[]) => {
    const done = await ask(() => answerRound(state.id, faults, watch));
    const v = done?.verdict;
    if (!v) return;
    await note({
      kind: "practice",
      text: `${v.right ? "Found" : "Not found"}: ${v.hidden.map((h) => h.what).join(" And: ")} ${v.score} of 100, ${v.minutes.toFixed(1)} min (the best plan: ${v.best.toFixed(1)} min).`,
      round: {
        topic: state.topic,
        level: state.level,
        right: v.right,
        minutes: v.minutes,
        best: v.best,
        score: v.score,
        contest,
      },
    }).catch(() => undefined); // the verdict stands on the page all the same
  };
  const { tint } = module.display;
  const pitch = Math.max(1.2, Math.min(3, Math.floor((2 * 390) / (state.glass.cols * CELL_COLS + 4)) / 2));
  return (
    <div className={css.round}>
      <section className={css.column} aria-label="The glass">
        <header className={css.head}>
          <h2>It shows</h2>
          <b className={css.spent} role="status">
            {state.spent.toFixed(1)} min spent
          </b>
        </header>
        <div className={css.glass} style={{ background: groundOf(state.glass, tintOf(tint)) }}>
          <Glass glass={state.glass} tint={tint} pitch={pitch} name="The module" />
        </div>
        {there && (
          <>
            <h3>The stand-in shows</h3>
            <StandInGlass
              module={of.module}
              tint={tint}
              width={Math.round(pitch * state.glass.cols * CELL_COLS)}
              name="The stand-in"
            />
          </>
        )}
        <h3>It ought to show</h3>
        <div className={css.glass} style={{ background: groundOf(state.sent, tintOf(tint)) }}>
          <Glass glass={state.sent} tint={tint} pitch={pitch / 1.6} name="It ought to" />
        </div>
        {refused && <p role="alert">{refused}</p>}
        {state.verdict ? (
          <Verdict verdict={state.verdict} tint={tint} onLeave={onLeave} />
        ) : (
          <>
            <Answer of={of} count={state.level === 4 ? 2 : 1} onAnswer={(f) => void answer(f)} />
            <div className={css.actions}>
              <Button variant="outlined" onClick={() => void ask(() => askHint(state.id, watch))}>
                A hint, {state.hintCost} min
              </Button>
              <Button onClick={onLeave}>Leave the round</Button>
            </div>
            {state.hints.map((h, i) => (
              <p key={i} className={css.hint}>
                {h}
              </p>
            ))}
          </>
        )}
      </section>
      {busy && <Working watch={watch} says="Playing it" />}
      <Tests
        state={state}
        busy={busy}
        onTest={(t) =>
          void ask(async () => {
            if (there) await actOn(t, setupOf(module), by);
            return inspect(state.id, t.id, watch);
          })
        }
      />
      <section className={css.column} aria-label="What you know">
        <h2>What you know</h2>
        {state.done.length === 0 && <p>Nothing yet beyond what the glass shows.</p>}
        <ol className={css.done}>
          {state.done.map((d) => (
            <li key={d.id}>
              <b>{d.title}</b>
              {d.glass ? (
                <span className={css.glass} style={{ background: groundOf(d.glass, tintOf(tint)) }}>
                  <Glass glass={d.glass} tint={tint} pitch={pitch / 1.8} name={d.title} />
                </span>
              ) : (
                <span>{d.says}</span>
              )}
            </li>
          ))}
        </ol>
      </section>
    </div>
  );
}

type Test = RoundState["tests"][number];

/** Does on the stand-in what its host does by itself of a test. */
async function actOn(test: Test, setup: Setup, by: string) {
  if (!test.act || test.act === "scan" || test.act === "measure") return; // no glass shows them
  const text = test.text && { rows: test.text, fields: undefined, cursor: undefined, scroll: undefined };
  await actThere(by, test.act, { ...setup, ...text });
}

/** What can be done, cheapest first; arrow keys go through the list. */
function Tests({ state, busy, onTest }: { state: RoundState; busy: boolean; onTest: (t: Test) => void }) {
  const done = new Set(state.done.map((d) => d.id));
  const over = (id: string) => done.has(id) || state.verdict !== undefined;
  const onKey = (e: KeyboardEvent<HTMLUListElement>) => {
    const step = { ArrowDown: 1, ArrowUp: -1 }[e.key];
    if (step === undefined) return;
    e.preventDefault();
    const all = [...e.currentTarget.querySelectorAll<HTMLButtonElement>("button")];
    const at = all.indexOf(document.activeElement as HTMLButtonElement);
    all[Math.min(Math.max(at + step, 0), all.length - 1)]?.focus();
  };
  return (
    <section className={css.column} aria-label="What you can do">
      <h2>What you can do</h2>
      <ul className={css.tests} onKeyDown={onKey}>
        {state.tests.map((t) => (
          <li key={t.id}>
            <Bare
              aria-disabled={busy || over(t.id) || undefined}
              title={t.do}
              onClick={() => !busy && !over(t.id) && onTest(t)}
            >
              <span>{t.title}</span>
              <small>{done.has(t.id) ? "done" : `${t.minutes} min`}</small>
            </Bare>
          </li>
        ))}
      </ul>
    </section>
  );
}

interface AnswerProps {
  of: Faulty;
  count: number;
  onAnswer: (faults: string[]) => void;
}

/** Names the fault: typed in part, then chosen. */
function Answer({ of, count, onAnswer }: AnswerProps) {
  const { data: faults } = useQuery(catalogueQuery(of));
  const [picked, setPicked] = useState<string[]>([]);
  const places = Array.from({ length: count }, (_, i) => i);
  const known = places.every((i) => picked[i]);
  return (
    <form
      className={css.answer}
      onSubmit={(e) => {
        e.preventDefault();
        if (known) onAnswer(picked);
      }}
    >
      {places.map((i) => (
        <label key={i}>
          {count > 1 ? `Fault ${i + 1}` : "It is"}
          <List
            value={picked[i] ?? ""}
            onChange={(e) => setPicked(places.map((k) => (k === i ? e.target.value : (picked[k] ?? ""))))}
          >
            <option value="">not named yet</option>
            {["wires", "supply", "bus", "program", "inputs"].map((topic) => {
              const list = (faults ?? []).filter((f) => f.topic === topic);
              return (
                list.length > 0 && (
                  <optgroup key={topic} label={topic}>
                    {list.map((f) => (
                      <option key={f.id} value={f.id}>
                        {f.what}
                      </option>
                    ))}
                  </optgroup>
                )
              );
            })}
          </List>
        </label>
      ))}
      <Button type="submit" variant="contained" disabled={!known}>
        Name it
      </Button>
    </form>
  );
}
