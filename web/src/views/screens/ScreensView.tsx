import { lazy, Suspense, useCallback, useDeferredValue, useEffect, useState } from "react";
import { useRun } from "../../work/useRun";
import { Findings } from "../../parts/findings/Findings";
import { StepCard } from "../../parts/steps/StepCard";
import { StepList } from "../../parts/steps/StepList";
import { useStep } from "../../work/StepContext";
import { useGlass } from "../../work/GlassContext";
import { ProgramBar } from "../../parts/steps/ProgramBar";
import { Tabs } from "../../ui/Tabs";
import type { Opened } from "./FieldsPanel";
import { ScreenStrip } from "./ScreenStrip";
import { useShortcut } from "../../ui/shortcuts";
import css from "./ScreensView.module.css";

const FieldsPanel = lazy(() => import("./FieldsPanel"));
const ChangesPanel = lazy(() => import("./ChangesPanel"));
const MatrixPanel = lazy(() => import("./MatrixPanel"));
const ScrollPanel = lazy(() => import("./ScrollPanel"));
const FindPanel = lazy(() => import("./FindPanel"));

const tabs = [
  { id: "bytes", title: "Bytes" },
  { id: "fields", title: "Fields" },
  { id: "changes", title: "Changes" },
  { id: "all", title: "All changes" },
  { id: "scroll", title: "Scroll" },
  { id: "find", title: "Find" },
] as const;

type Tab = (typeof tabs)[number]["id"];

/** Compose: the screens of a module, their fields, and what it takes to turn one into the next. */
export default function ScreensView() {
  const { data } = useRun();
  const run = useDeferredValue(data); // the glass is drawn first
  const { step, choose } = useStep();
  const { fieldRef } = useGlass();
  const [tab, setTab] = useState<Tab>("bytes");
  const [opened, setOpened] = useState<Opened>();
  const open = useCallback((field: number) => {
    setTab("fields");
    setOpened((o) => ({ field, asked: (o?.asked ?? 0) + 1 }));
  }, []);

  useEffect(() => {
    fieldRef.current = open;
    return () => {
      fieldRef.current = () => undefined;
    };
  }, [fieldRef, open]);
  useShortcut(
    "find",
    useCallback(() => setTab("find"), []),
  );

  if (!run) return <p className={css.wait}>Simulating…</p>;
  const chosen = step === null ? undefined : run.program.steps[step];
  return (
    <div className={css.view}>
      <ScreenStrip />
      <aside className={css.side}>
        <Findings findings={run.findings} onStep={choose} />
        {chosen && <StepCard step={chosen} program={run.program} read={run.reads.find((r) => r.step === step)} />}
      </aside>
      <div className={css.main}>
        <Tabs label="About the screen" tabs={tabs} value={tab} onChange={setTab} />
        {tab === "bytes" && (
          <section className={css.bytes} aria-label="Bytes">
            <ProgramBar run={run} />
            <StepList program={run.program} step={step} choose={choose} />
          </section>
        )}
        <Suspense fallback={<p className={css.wait}>Loading…</p>}>
          {tab === "fields" && <FieldsPanel facts={run.fields} opened={opened} onOpen={open} />}
          {tab === "changes" && <ChangesPanel />}
          {tab === "all" && <MatrixPanel onChoose={() => setTab("changes")} />}
          {tab === "scroll" && <ScrollPanel />}
          {tab === "find" && <FindPanel />}
        </Suspense>
      </div>
    </div>
  );
}
