import glossary from "../../../../docs/glossary.md?page";
import { wordsOf, type PageText } from "./nodes";

const files = import.meta.glob<PageText>("../../../../docs/handbook/*.md", {
  query: "?page",
  import: "default",
  eager: true,
});

/** The page with which the handbook opens: its contents. */
export const CONTENTS = "README";

/** The pages by their names: a view's is named as its address is. */
export const pages: ReadonlyMap<string, PageText> = new Map([
  ...Object.entries(files).map(([file, page]): [string, PageText] => [/([\w-]+)\.md/.exec(file)?.[1] ?? file, page]),
  ["glossary", glossary],
]);

export interface Hit {
  name: string;
  title: string;
  /** What stands around the first of the words. */
  around: string;
}

const plain = [...pages]
  .filter(([name]) => name !== CONTENTS)
  .map(([name, { title, nodes }]) => ({ name, title, text: wordsOf(nodes) }));

/** How much of a page is shown around a word that was found, in characters. */
const AROUND = 90;

/** The pages in which each of some words stands, those first that have them in their title. */
export function search(asked: string): Hit[] {
  const words = asked.toLowerCase().split(/\s+/).filter(Boolean);
  if (words.length === 0) return [];
  const hits = plain.flatMap(({ name, title, text }) => {
    const [head, body] = [title.toLowerCase(), text.toLowerCase()];
    if (!words.every((w) => head.includes(w) || body.includes(w))) return [];
    const first = Math.max(0, Math.min(...words.map((w) => body.indexOf(w)).filter((at) => at >= 0), body.length));
    const from = first === body.length ? 0 : Math.max(0, body.lastIndexOf("\n", first) + 1, first - AROUND / 3);
    const end = text.indexOf("\n", from + 1);
    const around = text.slice(from, end < 0 ? undefined : Math.min(end, from + AROUND)).trim();
    return [{ hit: { name, title, around }, rank: words.filter((w) => head.includes(w)).length }];
  });
  return hits.sort((a, b) => b.rank - a.rank).map(({ hit }) => hit);
}
