import { Suspense, useEffect, useMemo, useRef, useState } from "react";
import { NavLink, Outlet } from "react-router-dom";
import { useBench } from "../bench/BenchContext";
import { ConflictBar } from "../bench/ConflictBar";
import type { RunResult } from "../api/client";
import { noExtras, type Extras } from "../api/queries";
import { StepContext, useStep } from "../steps/StepContext";
import { Icon } from "../ui/Icon";
import { Dock } from "./Dock";
import { TopBar } from "./TopBar";
import { useRun } from "./useRun";
import { stateText, views } from "./views";
import css from "./Shell.module.css";

interface Held {
  of: string; // id of the module
  step: number | null;
  mark: number | null;
  extras: Extras;
}

const fresh: Held = { of: "", step: null, mark: null, extras: noExtras };

/** The frame of every view: bar, navigation, and the glass that stays in sight. */
export function Shell() {
  const { module } = useBench();
  // What is looked at belongs to one module: another one starts afresh.
  const [held, setHeld] = useState<Held>({ ...fresh, of: module.id });
  const now = held.of === module.id ? held : fresh;
  const choice = useMemo(() => {
    const hold = (next: Partial<Held>) =>
      setHeld((h) => {
        const before = h.of === module.id ? h : fresh;
        const same = Object.entries(next).every(([key, value]) => before[key as keyof Held] === value);
        return same ? h : { ...before, ...next, of: module.id };
      });
    return {
      choose: (step: number | null) => hold({ step }),
      setMark: (mark: number | null) => hold({ mark }),
      setExtras: (extras: Extras) => hold({ extras }),
    };
  }, [module.id]);
  const typistRef = useRef<(text: string) => void>(() => undefined);
  const { data: run } = useRun(now.extras);
  const cols = run?.glass.cols ?? 16;
  const value = useMemo(() => ({ ...now, ...choice, cols, typistRef }), [now, choice, cols]);
  return (
    <StepContext value={value}>
      <Frame run={run} />
    </StepContext>
  );
}

function Frame({ run }: { run: RunResult | undefined }) {
  const { module } = useBench();
  const { choose } = useStep();
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (e.key === "Escape") choose(null);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [choose]);
  const facts = { empty: module.screen.rows.length === 0, findings: run?.findings ?? [] };
  return (
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
  );
}
