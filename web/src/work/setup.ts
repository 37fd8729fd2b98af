import type { Bench, Module, Setup } from "../api/client";

/** What a run of a module's first screen needs, and no more: it is sent with every key. */
export function setupOf(bench: Bench, module: Module): Setup {
  return {
    at: { module: Math.max(bench.modules.indexOf(module), 0), screen: 0 },
    host: { bearsMV: bench.host?.bearsMV, busHz: bench.bus?.speedHz },
    display: module.display,
    link: module.link,
    glyphs: module.glyphs,
    rows: module.screens[0]?.rows ?? [],
  };
}

/** The module with other rows on its first screen. */
export function withRows(m: Module, rows: string[]): Module {
  return { ...m, screens: m.screens.map((s, i) => (i === 0 ? { ...s, rows } : s)) };
}
