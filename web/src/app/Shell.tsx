import { Suspense, useEffect, useMemo, useState } from "react";
import { NavLink, Outlet } from "react-router-dom";
import { useBench } from "../bench/BenchContext";
import { ConflictBar } from "../bench/ConflictBar";
import { StepContext } from "../steps/StepContext";
import { Icon } from "../ui/Icon";
import { Dock } from "./Dock";
import { TopBar } from "./TopBar";
import { useRun } from "./useRun";
import { stateText, views } from "./views";
import css from "./Shell.module.css";

/** The frame of every view: bar, navigation, and the glass that stays in sight. */
export function Shell() {
  const { module } = useBench();
  const { data: run } = useRun();
  const [chosen, setChosen] = useState<{ run: string; step: number } | null>(null);
  const runId = run?.id ?? "";
  const step = chosen && chosen.run === runId ? chosen.step : null;
  const choice = useMemo(
    () => ({ step, choose: (s: number | null) => setChosen(s === null ? null : { run: runId, step: s }) }),
    [step, runId],
  );
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (e.key === "Escape") setChosen(null);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
  const facts = { empty: module.screen.rows.length === 0, findings: run?.findings ?? [] };
  return (
    <StepContext value={choice}>
      <div className={css.shell}>
        <TopBar />
        <nav className={css.rail} aria-label="Order of the work">
          {views.map((v) => {
            const state = v.state(facts);
            return (
              <NavLink key={v.path} to={v.path} className={css.link} aria-label={`${v.title}: ${stateText[state]}`}>
                <Icon name={v.icon} size={24} />
                {v.title}
                <span className={css.state} data-state={state} title={stateText[state]} />
              </NavLink>
            );
          })}
        </nav>
        <main className={css.main}>
          <ConflictBar />
          <Dock />
          <Suspense fallback={<p className={css.loading}>Opening…</p>}>
            <Outlet />
          </Suspense>
        </main>
      </div>
    </StepContext>
  );
}
