import { lazy, memo, Suspense, useCallback, useEffect, useMemo, useRef, useState } from "react";
import { Outlet, useLocation, useNavigate, useParams } from "react-router-dom";
import { noExtras, type Extras } from "../api/queries";
import { useBench } from "../work/BenchContext";
import { ExtrasContext } from "../work/ExtrasContext";
import { GlassContext, type GlassHands } from "../work/GlassContext";
import { StepContext, useStep } from "../work/StepContext";
import { RunContext, useCurrentRun } from "../work/useRun";
import { tour } from "../work/tour";
import { useTellingWhere } from "../work/useWhereabouts";
import { Dock } from "./dock/Dock";
import { useShortcut } from "../ui/shortcuts";
import { useHand } from "../ui/useMedia";
import { Handbook } from "./handbook/Handbook";
import { HandFrame } from "./hand/HandFrame";
import { Follow } from "./live/Follow";
import { Lead } from "./Notice";
import { Rail } from "./Rail";
import { useTidings } from "./TidingsContext";
import { TopBar } from "./TopBar";
import { ViewBoundary } from "./ViewBoundary";
import { groups } from "./views";
import css from "./Shell.module.css";

const Tour = lazy(() => import("./tour/Tour"));

interface Held {
  of: string; // id of the module
  step: number | null;
  mark: number | null;
  extras: Extras;
}

const fresh: Held = { of: "", step: null, mark: null, extras: noExtras };

/** The frame of every view: bar, navigation, and the glass that stays in sight. */
export function Shell() {
  const { id, module } = useBench();
  const navigate = useNavigate();
  const { module: named = "" } = useParams();
  const view = useLocation().pathname.split("/")[4] ?? "";
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
  const hands = useHands();
  const hand = useHand();
  const run = useCurrentRun(view === "run" ? now.extras : noExtras); // what is done by hand belongs to the run view
  const cols = run.data?.glass.cols ?? 16;
  const { step, mark, extras } = now;
  const steps = useMemo(
    () => ({ step, mark, choose: choice.choose, setMark: choice.setMark, cols }),
    [step, mark, choice, cols],
  );
  const added = useMemo(() => ({ extras, setExtras: choice.setExtras }), [extras, choice]);

  // The address names the module that is on the dock.
  useEffect(() => {
    if (view && named !== module.id) void navigate(`/benches/${id}/${module.id}/${view}`, { replace: true });
  }, [id, module.id, named, view, navigate]);

  return (
    <GlassContext value={hands}>
      <ExtrasContext value={added}>
        <StepContext value={steps}>
          <RunContext value={run}>{hand ? <HandFrame view={view} /> : <Frame view={view} />}</RunContext>
        </StepContext>
      </ExtrasContext>
    </GlassContext>
  );
}

function useHands(): GlassHands {
  const typistRef = useRef<(text: string, block?: boolean) => void>(() => undefined);
  const toGlassRef = useRef<() => void>(() => undefined);
  const showRef = useRef<GlassHands["showRef"]["current"]>(() => undefined);
  const pickRef = useRef<(cell: number) => void>(() => undefined);
  const fieldRef = useRef<(field: number) => void>(() => undefined);
  return useMemo(() => ({ typistRef, toGlassRef, showRef, pickRef, fieldRef }), []);
}

/** Leads to the screens of the module on the dock; in the hand, to the work. */
export function ToScreens() {
  const { id, module } = useBench();
  const hand = useHand();
  return <Lead to={`/benches/${id}/${module.id}/${hand ? "wiring" : "screens"}`} />;
}

/** A view of the hand's as it is found at the desk. */
export function AtDesk({ view }: { view: string }) {
  const { id, module } = useBench();
  return <Lead to={`/benches/${id}/${module.id}/${view}`} />;
}

/** Tells the others where this page is; by itself, so that a caret that moves draws no more. */
function Telling({ view }: { view: string }) {
  useTellingWhere(view);
  return null;
}

const Frame = memo(function Frame({ view }: { view: string }) {
  const { bench, module } = useBench();
  const { choose } = useStep();
  const tidings = useTidings();
  const title = groups.flatMap((g) => g.views).find((v) => v.path === view)?.title ?? "";
  const name = module.name || "Unnamed module";
  const [reading, setReading] = useState(false);
  const toggleReading = useCallback(() => setReading((r) => !r), []);
  useShortcut("handbook", toggleReading);
  const touring = tour.useValue();
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (e.key === "Escape") choose(null);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [choose]);
  useEffect(() => {
    document.title = `${name} · ${title} · ${bench.name || "Unnamed bench"} · Slate Bell`;
  }, [name, title, bench.name]);
  return (
    <div className={css.shell} data-reading={reading || undefined}>
      <Follow />
      <Telling view={title} />
      <TopBar reading={reading} toggleReading={toggleReading} />
      <Rail />
      <main className={css.main}>
        <h1 className="unseen">
          {title}: {name}
        </h1>
        {tidings}
        <Dock key={`dock-${view}`} view={view} />
        {/* One for all views: the one before stays until the next is loaded, where a new one would show its fallback for 300 ms at least. */}
        <Suspense fallback={<p className={css.loading}>Opening…</p>}>
          <ViewBoundary key={`view-${view}`}>
            <Outlet />
          </ViewBoundary>
        </Suspense>
      </main>
      <Suspense>{touring > 0 && <Tour view={view} at={touring} />}</Suspense>
      <Handbook view={view} open={reading} close={() => setReading(false)} />
    </div>
  );
});
