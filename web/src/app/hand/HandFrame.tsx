import IconButton from "@mui/material/IconButton";
import { Suspense, useEffect } from "react";
import { Link, NavLink } from "react-router-dom";
import { Bell } from "../../ui/Bell";
import { Icon, type IconName } from "../../ui/Icon";
import { later, type Later } from "../../ui/later";
import { List } from "../../ui/List";
import { useBench, useSavingState } from "../../work/BenchContext";
import { useTellingWhere } from "../../work/useWhereabouts";
import { useTidings } from "../TidingsContext";
import { ViewBoundary } from "../ViewBoundary";
import { Company } from "../Company";
import css from "./HandFrame.module.css";

interface HandView {
  path: string;
  title: string;
  icon: IconName;
  View: Later;
}

/** The views for the hand, in the order of the work; the first four are at the thumb. */
const views: HandView[] = [
  { path: "wiring", title: "Work", icon: "wires", View: later(() => import("../../views/hand/Work")) },
  { path: "light", title: "Light", icon: "bulb", View: later(() => import("../../views/hand/Light")) },
  { path: "faults", title: "Find", icon: "seek", View: later(() => import("../../views/hand/Find")) },
  { path: "screens", title: "Screens", icon: "grid", View: later(() => import("../../views/hand/Screens")) },
  { path: "scenes", title: "Scenes", icon: "film", View: later(() => import("../../views/hand/Scenes")) },
  { path: "bus", title: "Bus", icon: "bus", View: later(() => import("../../views/hand/Bus")) },
  { path: "log", title: "Log", icon: "book", View: later(() => import("../../views/hand/Log")) },
  { path: "card", title: "Card", icon: "paper", View: later(() => import("../../views/hand/Card")) },
];

/** How long after it has begun the frame fetches the other views, so that they are there when the desk sleeps; in milliseconds. */
const AHEAD_MS = 1500;

/** Views of the desk: here they can be read. */
const desk: { path: string; title: string; icon: IconName }[] = [
  { path: "bench", title: "Bench", icon: "table" },
  { path: "module", title: "Module", icon: "board" },
  { path: "glyphs", title: "Glyphs", icon: "dots" },
  { path: "run", title: "Run", icon: "wave" },
  { path: "recording", title: "Recording", icon: "probe" },
  { path: "code", title: "Code", icon: "code" },
];

/** Pages of the handbook for views that have none of their own name. */
const manual: Partial<Record<string, string>> = { light: "wiring", card: "code" };

const Reading = later(() => import("../../views/hand/Reading"));

const AT_THUMB = 4;

/** The frame of the views for the hand: what is open above, where to go below, at the thumb. */
export function HandFrame({ view }: { view: string }) {
  const { id, bench, module, selectModule, undo, canUndo } = useBench();
  const { save } = useSavingState();
  const tidings = useTidings();
  const shown = views.find((v) => v.path === view);
  const title = shown?.title ?? desk.find((v) => v.path === view)?.title ?? "";
  useTellingWhere(title);
  const name = module.name || "Unnamed module";
  useEffect(() => {
    document.title = `${name} · ${title} · ${bench.name || "Unnamed bench"} · Slate Bell`;
  }, [name, title, bench.name]);
  useEffect(() => {
    const timer = window.setTimeout(() => {
      for (const v of views) void v.View.start();
    }, AHEAD_MS);
    return () => window.clearTimeout(timer);
  }, []);
  const beyond = [...views.slice(AT_THUMB), ...desk].find((v) => v.path === view);
  const to = (path: string) => `/benches/${id}/${module.id}/${path}`;
  const said = {
    saved: "Saved",
    saving: "Saving…",
    failed: save.kind === "failed" ? `Kept here, not saved yet: ${save.why}` : "",
    conflict: "Changed elsewhere too",
  }[save.kind];
  return (
    <div className={css.frame}>
      <header className={css.bar}>
        <Link to="/benches" className={css.mark} aria-label="All benches" title="All benches">
          <Bell />
        </Link>
        <List aria-label="Module" value={module.id} onChange={(e) => selectModule(e.target.value)}>
          {bench.modules.map((m) => (
            <option key={m.id} value={m.id}>
              {m.name || "Unnamed module"}
            </option>
          ))}
        </List>
        <Company />
        <span className={css.saved} data-state={save.kind} role="status" title={said}>
          <span className="unseen">{said}</span>
        </span>
        <IconButton aria-label="Undo" title="Undo" disabled={!canUndo} onClick={undo} color="inherit">
          <Icon name="undo" />
        </IconButton>
      </header>
      <main className={css.main}>
        <h1 className="unseen">
          {title}: {name}
        </h1>
        {tidings}
        {save.kind === "failed" && (
          <p className={css.away} role="alert">
            {said} What you tick and write stays on this device and is sent once the desk answers.
          </p>
        )}
        <Suspense fallback={<p>Opening…</p>}>
          <ViewBoundary key={view}>{shown ? <shown.View /> : <Reading />}</ViewBoundary>
        </Suspense>
      </main>
      <nav className={css.thumb} aria-label="Views">
        {views.slice(0, AT_THUMB).map((v) => (
          <NavLink key={v.path} to={to(v.path)}>
            <Icon name={v.icon} size={24} />
            {v.title}
          </NavLink>
        ))}
        <button type="button" popoverTarget="more" data-here={beyond !== undefined || undefined}>
          <Icon name={beyond ? beyond.icon : "more"} size={24} />
          {beyond ? beyond.title : "More"}
          {beyond && <span className="unseen">, more views</span>}
        </button>
        <div id="more" popover="auto" className={css.more} role="group" aria-label="More views">
          {[...views.slice(AT_THUMB), ...desk].map((v) => (
            <NavLink key={v.path} to={to(v.path)} onClick={() => document.getElementById("more")?.hidePopover()}>
              <Icon name={v.icon} size={24} />
              {v.title}
            </NavLink>
          ))}
          <Link to={`/handbook/${manual[view] ?? view}`}>
            <Icon name="book" size={24} />
            Handbook
          </Link>
        </div>
      </nav>
    </div>
  );
}
