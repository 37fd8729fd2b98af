import { lexer, type Token, type Tokens } from "marked";
import type { Plugin } from "vite";
import type { Node, PageText } from "./src/parts/handbook/nodes";

/**
 * Turns a Markdown file that is imported with ?page into what the page draws, so that no Markdown is read at run time. A link to a
 * word of the glossary becomes that word; a fenced block named picture is drawn by the page's own parts.
 */
export const handbook = (): Plugin => ({
  name: "handbook",
  enforce: "pre",
  transform(code, id) {
    return id.endsWith(".md?page") ? `export default ${JSON.stringify(pageOf(code))}` : undefined;
  },
});

function pageOf(text: string): PageText {
  const tokens = lexer(text);
  const title = tokens.find((t): t is Tokens.Heading => t.type === "heading" && t.depth === 1);
  return { title: title?.text ?? "", nodes: tokens.filter((t) => t !== title).flatMap(block) };
}

const inline = (tokens: Token[] | undefined): Node[] => (tokens ?? []).flatMap(one);

/** A link to another page, or a word of the glossary. */
function link({ href, tokens }: Tokens.Link): Node {
  const [, file = "", anchor] = /^(?:\.\.\/)?([\w-]+)\.md(?:#(.+))?$/.exec(href) ?? [];
  if (file === "glossary" && anchor) return { is: "term", of: anchor, in: inline(tokens) };
  if (!file) throw new Error(`${href} leads nowhere; expected a page of the handbook, such as wiring.md`);
  return { is: "link", to: file, in: inline(tokens) };
}

function one(token: Token): Node[] {
  switch (token.type) {
    case "text":
      return token.tokens ? inline(token.tokens) : [token.text as string];
    case "escape":
      return [token.text as string];
    case "strong":
      return [{ is: "strong", in: inline(token.tokens) }];
    case "codespan":
      return [{ is: "codespan", in: [token.text as string] }];
    case "link":
      return [link(token as Tokens.Link)];
  }
  throw new Error(`the handbook has no ${token.type}: ${token.raw}`);
}

function block(token: Token): Node[] {
  switch (token.type) {
    case "space":
    case "def":
      return [];
    case "heading":
      return [{ is: "heading", in: inline(token.tokens) }];
    case "paragraph":
      return [{ is: "paragraph", in: inline(token.tokens) }];
    case "list": {
      const { ordered, items } = token as Tokens.List;
      return [
        { is: ordered ? "numbered" : "list", in: items.map((i): Node => ({ is: "item", in: i.tokens.flatMap(one) })) },
      ];
    }
    case "table": {
      const { header, rows } = token as Tokens.Table;
      const cells = (list: Tokens.TableCell[], is: "head" | "cell"): Node[] =>
        list.map((c) => ({ is, in: inline(c.tokens) }));
      return [
        {
          is: "table",
          in: [header, ...rows].map((r, i): Node => ({ is: "row", in: cells(r, i === 0 ? "head" : "cell") })),
        },
      ];
    }
    case "code": {
      const [what = "", ...said] = (token.text as string).split("\n");
      if (token.lang !== "picture") throw new Error(`a block of ${token.lang}; expected picture`);
      return [{ is: "picture", what: what.split(" "), in: [said.join(" ")] }];
    }
  }
  throw new Error(`the handbook has no ${token.type}: ${token.raw}`);
}
