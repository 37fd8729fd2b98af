// Carries out what a test of Go asks of some files of the page, a line of JSON each.
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { basename } from "node:path";
import { createInterface } from "node:readline";
import { pathToFileURL } from "node:url";
import { createPatch } from "rfc6902";
import ts from "typescript";

mkdirSync("node_modules/.cache", { recursive: true });
const dir = mkdtempSync("node_modules/.cache/page-");
process.on("exit", () => rmSync(dir, { recursive: true }));
for (const file of ["api/patched", "work/merge", "work/patch", "work/sync", "work/typing/rows", "ui/numbers", "parts/board/geometry"]) {
  const { outputText } = ts.transpileModule(readFileSync(`src/${file}.ts`, "utf8"), {
    compilerOptions: { module: "ESNext", target: "ES2022", verbatimModuleSyntax: false },
  });
  writeFileSync(`${dir}/${basename(file)}.mjs`, outputText.replaceAll(/from "\.[./\w]*\/(\w+)"/g, 'from "./$1.mjs"'));
}
const load = (name) => import(pathToFileURL(`${dir}/${name}.mjs`));
const { merge } = await load("merge");
const { Sync } = await load("sync");
const { patches } = await load("patch");
const { cut } = await load("geometry");
const { patched } = await load("patched");
const rows = await load("rows");

const pages = new Map();
const acts = {
  all: ({ pages: list }) => list.map((page) => acts.state({ page })),
  cut: ({ ways }) => ways.map(({ way, places, reach }) => cut(way, places, reach)),
  // what patches make of values, and how many of their parts are other objects than before
  patched: ({ pairs }) =>
    pairs.map(([before, after]) => {
      const patch = createPatch(before, after);
      const is = patched(before, patch);
      const other = (a, b) =>
        a === b || typeof a !== "object" || a === null ? 0 : 1 + Object.keys(a).reduce((n, k) => n + other(a[k], b?.[k]), 0);
      return { is, was: before, other: other(is, before), changes: patch.length };
    }),
  // what a maker does to a screen's rows, one after the other: the rows and the caret after each
  rows: ({ edits }) => {
    let now = [];
    return edits.map(({ what, anchor, caret, text, mode }) => {
      const done = {
        write: () => rows.write(now, { anchor, caret }, text, mode),
        clear: () => rows.clear(now, { anchor, caret }, mode),
        backspace: () => rows.backspace(now, caret, mode),
        remove: () => rows.remove(now, caret),
      }[what]();
      now = done.rows;
      return done;
    });
  },
  merge: ({ base, mine, theirs, prefer }) => merge(base, mine, theirs, prefer),
  open: ({ page, revision, value }) => pages.set(page, new Sync({ revision, value }, patches)) && {},
  edit: ({ page, value }) => pages.get(page).edit(value),
  send: ({ page }) => pages.get(page).send() ?? {},
  failed: ({ page }) => pages.get(page).failed(),
  answered: ({ page, revision, rest }) => pages.get(page).answered(revision, rest),
  happened: ({ page, what }) => pages.get(page).happened(what),
  settle: ({ page, theirs, prefer }) => {
    const other = pages.get(page).settle(theirs);
    if (prefer === "theirs") pages.get(page).edit(other(pages.get(page).now));
  },
  state: ({ page }) => {
    const s = pages.get(page);
    return { value: s.now, revision: s.revision, behind: s.behind };
  },
};
for await (const line of createInterface({ input: process.stdin })) {
  const asked = JSON.parse(line);
  process.stdout.write(JSON.stringify(acts[asked.do](asked) ?? {}) + "\n");
}
