import text from "../../../docs/glossary.md?raw";

/** What the words of the page mean, as docs/glossary.md has them. */
export const glossary: ReadonlyMap<string, string> = new Map(
  text.split("\n").flatMap((line) => {
    const [, words = "", means = ""] = line.split("|").map((cell) => cell.trim().replaceAll("`", ""));
    if (!means || /^(-+|word)$/.test(words)) return [];
    return words.split(", ").map((word): [string, string] => [word, means]);
  }),
);
