import type { ReactNode } from "react";
import { glossary } from "../../ui/glossary";
import { Term } from "../../ui/Term";
import type { Node } from "./nodes";
import { PageLink } from "./PageLink";
import { Picture } from "./Picture";

interface Props {
  nodes: readonly Node[];
  /** Leads to another page. */
  go: (page: string) => void;
}

/** What a page of the handbook is made of. */
export function Nodes({ nodes, go }: Props) {
  return nodes.map((n, i) => <One key={i} node={n} go={go} />);
}

const plain = {
  heading: "h3",
  paragraph: "p",
  list: "ul",
  numbered: "ol",
  item: "li",
  row: "tr",
  head: "th",
  cell: "td",
  strong: "strong",
  codespan: "code",
} as const;

function One({ node, go }: { node: Node; go: (page: string) => void }): ReactNode {
  if (typeof node === "string") return node;
  const inside = <Nodes nodes={node.in} go={go} />;
  switch (node.is) {
    case "term":
      return <Term of={wordAt(node.of)}>{inside}</Term>;
    case "link":
      return (
        <PageLink to={node.to} go={go}>
          {inside}
        </PageLink>
      );
    case "picture":
      return <Picture what={node.what} caption={node.in.join("")} />;
    case "table":
      return (
        <table>
          <tbody>{inside}</tbody>
        </table>
      );
    default: {
      const Tag = plain[node.is];
      return <Tag>{inside}</Tag>;
    }
  }
}

const anchors = new Map([...glossary.keys()].map((word) => [word.toLowerCase().replaceAll(" ", "-"), word]));

/** The word of the glossary that an anchor names, such as first-light. */
const wordAt = (anchor: string) => anchors.get(anchor.toLowerCase()) ?? anchor;
