import { useQuery, useQueryClient } from "@tanstack/react-query";
import { memo, Suspense, useEffect, useMemo, useRef, useState } from "react";
import { NavLink, Outlet, useLocation } from "react-router-dom";
import { useBench } from "../bench/BenchContext";
import { ConflictBar } from "../bench/ConflictBar";
import type { Module } from "../api/client";
import { noExtras, runQuery, type Extras } from "../api/queries";
import { StepContext, useStep } from "../steps/StepContext";
import { Icon } from "../ui/Icon";
import { Dock } from "./Dock";
import { TopBar } from "./TopBar";
import { RunContext, useRun } from "./useRun";
import { stateText, views, type View, type ViewState } from "./views";
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
  const { pathname } = useLocation();
  const extras = pathname === "/run" ? now.extras : noExtras; // what is done by hand belongs to the run view
  const { data, error } = useQuery(runQuery(module, extras));
  const queries = useQueryClient();
  const run = useMemo(
    () => ({ data, error, ahead: (next: Module) => queries.prefetchQuery(runQuery(next, extras)) }),
    [data, error, queries, extras],
  );
  const cols = data?.glass.cols ?? 16;
  const steps = useMemo(() => ({ ...now, ...choice, cols, typistRef }), [now, choice, cols]);
  return (
    <StepContext value={steps}>
      <RunContext value={run}>
        <Frame />
      </RunContext>
    </StepContext>
  );
}

const Frame = memo(function Frame() {
  const { choose } = useStep();
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (e.key === "Escape") choose(null);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [choose]);
  return (
    <div className={css.shell}>
      <TopBar />
      <Rail />
      <main className={css.main}>
        <ConflictBar />
        <Dock />
        <Suspense fallback={<p className={css.loading}>Opening…</p>}>
          <Outlet />
        </Suspense>
      </main>
    </div>
  );
});

/** The views in the order of the work, each with how far the module has come. */
function Rail() {
  const { module } = useBench();
  const { data: run } = useRun();
  const facts = { empty: module.screen.rows.length === 0, findings: run?.findings ?? [] };
  return (
    <nav className={css.rail} aria-label="Order of the work">
      {views.map((v) => (
        <RailLink key={v.path} view={v} state={v.state(facts)} />
      ))}
    </nav>
  );
}

const RailLink = memo(function RailLink({ view, state }: { view: View; state: ViewState }) {
  return (
    <NavLink to={view.path} className={css.link} aria-label={`${view.title}: ${stateText[state]}`}>
      <Icon name={view.icon} size={24} />
      {view.title}
      <span className={css.state} data-state={state} title={stateText[state]} />
    </NavLink>
  );
});
