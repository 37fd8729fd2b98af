import type { Bench, Module, Setup } from "../api/client";

/** What a run of a module's first screen needs, and no more: it is sent with every key. */
export function setupOf(bench: Bench, module: Module): Setup {
  return {
    at: { module: Math.max(bench.modules.indexOf(module), 0), screen: 0 },
    host: { part: bench.host?.part, bearsMV: bench.host?.bearsMV, busHz: bench.bus?.speedHz },
    display: module.display,
    link: module.link,
    glyphs: module.glyphs,
    rows: module.screens[0]?.rows ?? [],
  };
}

/** What the plan needs of a bench: no screens, glyphs or wires, but the screen of one module where it is asked for. */
export function planOf(bench: Bench, of?: Module): Bench {
  const modules = bench.modules.map((m) =>
    m === of
      ? { ...m, screens: m.screens.slice(0, 1), show: undefined }
      : { ...m, glyphs: undefined, screens: [{ id: "screen-1", rows: [] }], show: undefined },
  );
  return { ...bench, modules, glyphs: undefined, wiring: undefined };
}

/** The module with other rows on its first screen. */
export function withRows(m: Module, rows: string[]): Module {
  return { ...m, screens: m.screens.map((s, i) => (i === 0 ? { ...s, rows } : s)) };
}
