/** What a page of the handbook is made of, as the build reads it from Markdown. */
export type Node =
  | string
  | {
      is:
        | "heading"
        | "paragraph"
        | "list"
        | "numbered"
        | "item"
        | "table"
        | "row"
        | "head"
        | "cell"
        | "strong"
        | "codespan";
      in: Node[];
    }
  | { is: "link"; to: string; in: Node[] }
  | { is: "term"; of: string; in: Node[] }
  | { is: "picture"; what: string[]; in: Node[] };

export interface PageText {
  title: string;
  nodes: Node[];
}

/** The words of nodes, as they are read. */
export const wordsOf = (nodes: readonly Node[]): string =>
  nodes.map((n) => (typeof n === "string" ? n : `${wordsOf(n.in)}${block.has(n.is) ? "\n" : ""}`)).join("");

const block = new Set(["heading", "paragraph", "item", "row", "head", "cell", "picture"]);
