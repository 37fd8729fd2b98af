import hljs from "highlight.js/lib/core";
import c from "highlight.js/lib/languages/c";
import makefile from "highlight.js/lib/languages/makefile";
import python from "highlight.js/lib/languages/python";

hljs.registerLanguage("c", c);
hljs.registerLanguage("python", python);
hljs.registerLanguage("makefile", makefile);

const languageOf = (name: string) => (name.endsWith(".py") ? "python" : name === "Makefile" ? "makefile" : "c");

/** The lines of a file as HTML, each with its colours: what spans lines is closed and opened again. */
export function highlighted(name: string, text: string): string[] {
  const html = hljs.highlight(text, { language: languageOf(name), ignoreIllegals: true }).value;
  const open: string[] = [];
  return html.split("\n").map((line) => {
    const before = open.join("");
    for (const tag of line.match(/<span[^>]*>|<\/span>/g) ?? []) {
      if (tag === "</span>") open.pop();
      else open.push(tag);
    }
    return before + line + "</span>".repeat(open.length);
  });
}
