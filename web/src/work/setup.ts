import type { Bench, Joined, Module, Screen, Setup } from "../api/client";
import { wiringQuery } from "../api/queries";
import { keysIn } from "./typing/rows";

/**
 * What a run of a module's screen needs, and no more: it is sent with every key.
 * @param screenAt index of the screen
 * @param joined how the module is joined up on the table; undefined where nothing lies there
 */
export function setupOf(bench: Bench, module: Module, screenAt: number, joined: Joined | undefined): Setup {
  const screen = module.screens[screenAt];
  const named = keysIn([...(screen?.rows ?? []), ...(screen?.fields ?? []).flatMap((f) => f.values ?? [])]);
  return {
    at: {
      module: Math.max(
        bench.modules.findIndex((m) => m.id === module.id),
        0,
      ),
      screen: screenAt,
    },
    host: { part: bench.host?.part, bearsMV: bench.host?.bearsMV, busHz: bench.bus?.speedHz },
    display: module.display,
    link: module.link,
    fitting: module.fitting,
    glyphs: module.glyphs,
    library: named.size > 0 ? (bench.glyphs ?? []).filter((d) => named.has(d.key ?? 0)) : undefined,
    rows: screen?.rows ?? [],
    fields: screen?.fields,
    cursor: screen?.cursor,
    scroll: screen?.scroll,
    joined,
  };
}

/** Whether anything lies on the table. */
export const laid = (bench: Bench): boolean =>
  (bench.wiring?.boards?.length ?? 0) > 0 || (bench.wiring?.wires?.length ?? 0) > 0;

/** What the table needs of a bench: no screens and glyphs, but what the modules' shows listen to. */
export function wiringOf(bench: Bench): Bench {
  const modules = bench.modules.map((m) => ({
    ...m,
    glyphs: undefined,
    screens: [{ id: "screen-1", rows: [] }],
    show: listening(m),
  }));
  return { ...bench, name: "", modules, glyphs: undefined };
}

/** What lies on a bench's table, or would, with the screen that is shown as its module is joined up there. */
export const tableQuery = (bench: Bench, shown: Setup) => wiringQuery(wiringOf(bench), { ...shown, joined: undefined });

/** What a module's show listens to, which takes pins of the host. */
const listening = (m: Module) => (m.show?.inputs ? { inputs: m.show.inputs } : undefined);

/** What the plan needs of a bench: no screens, glyphs or wires, but the screen of one module where it is asked for. */
export function planOf(bench: Bench, of?: Module): Bench {
  const modules = bench.modules.map((m) =>
    m === of
      ? { ...m, screens: m.screens.slice(0, 1), show: listening(m) }
      : { ...m, glyphs: undefined, screens: [{ id: "screen-1", rows: [] }], show: listening(m) },
  );
  return { ...bench, modules, glyphs: undefined, wiring: undefined };
}

/** What the loading of a module's glyphs needs of a bench: its screens and the library, and nothing of other modules. */
export function loadingOf(bench: Bench, of: Module): Bench {
  const modules = bench.modules.map((m) =>
    m === of
      ? { ...m, show: undefined }
      : { ...m, glyphs: undefined, loading: undefined, screens: [{ id: "screen-1", rows: [] }], show: undefined },
  );
  return { ...bench, name: "", modules, wiring: undefined };
}

/** What a change of glyphs needs of a bench: its library, and the slots of one module. */
export function libraryOf(bench: Bench, of: Module): Bench {
  const modules = bench.modules.map((m) => ({
    ...m,
    glyphs: m === of ? m.glyphs : undefined,
    screens: [{ id: "screen-1", rows: [] }],
    show: undefined,
  }));
  return { ...bench, name: "", modules, wiring: undefined };
}

/** What faults are looked for in: a module with its screens and its show, whose inputs may be what is wrong. */
export function faultyOf(bench: Bench, of: Module): Bench {
  const slim = loadingOf(bench, of);
  return { ...slim, modules: slim.modules.map((m) => (m.id === of.id ? { ...m, show: of.show } : m)) };
}

/** The module with something else on one of its screens. */
export const withScreen = (m: Module, id: string, next: (s: Screen) => Screen): Module => ({
  ...m,
  screens: m.screens.map((s) => (s.id === id ? next(s) : s)),
});

/** The module with other rows on one of its screens. */
export const withRows = (m: Module, screen: string, rows: string[]): Module =>
  withScreen(m, screen, (s) => ({ ...s, rows }));
