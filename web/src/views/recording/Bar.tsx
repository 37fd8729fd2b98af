import IconButton from "@mui/material/IconButton";
import { memo, useState } from "react";
import { searchIn, type Sought } from "../../api/recordings";
import { Bare } from "../../ui/Bare";
import { Copy } from "../../ui/Copy";
import { Icon } from "../../ui/Icon";
import { List } from "../../ui/List";
import { Quiet } from "../../ui/Quiet";
import { TextBox } from "../../ui/TextBox";
import { reason } from "../../work/reason";
import { lasting, often, stamp } from "./time";
import type { Moved } from "./useWindow";
import css from "./Bar.module.css";

interface Props {
  id: string;
  found: boolean;
  limits: number;
  moved: Moved;
  step: (what: "operation" | "edge" | "limit", back: boolean) => void;
}

/** Steps, zooms, marks and searches. */
export function Bar({ id, found, limits, moved, step }: Props) {
  const { w } = moved;
  const apart = w.a !== undefined && w.b !== undefined ? Math.abs(w.b - w.a) : undefined;
  return (
    <div className={css.bar} role="toolbar" aria-label="Recording">
      <IconButton
        aria-label="Step back"
        title="To the operation before (←)"
        onClick={() => step(found ? "operation" : "edge", true)}
        color="inherit"
      >
        <Icon name="back" />
      </IconButton>
      <output className={css.time}>{stamp(w.at)}</output>
      <IconButton
        aria-label="Step"
        title="To the next operation (→)"
        onClick={() => step(found ? "operation" : "edge", false)}
        color="inherit"
      >
        <Icon name="next" />
      </IconButton>
      <span className={css.group} role="group" aria-label="Zoom">
        <Bare aria-label="Look nearer" title="Look nearer (+)" onClick={() => moved.zoom(0.5)}>
          +
        </Bare>
        <Bare aria-label="Look from further away" title="Look from further away (−)" onClick={() => moved.zoom(2)}>
          −
        </Bare>
        <Bare aria-label="All of it" title="All of it (0)" onClick={moved.all}>
          all
        </Bare>
      </span>
      <span className={css.group} role="group" aria-label="Marks">
        <Bare title="Mark A at the time that is looked at (A)" aria-label="Mark A here" onClick={() => moved.mark("a")}>
          A
        </Bare>
        <Bare title="Mark B at the time that is looked at (B)" aria-label="Mark B here" onClick={() => moved.mark("b")}>
          B
        </Bare>
      </span>
      {apart !== undefined && (
        <span className={css.apart} role="status">
          <Copy text={lasting(apart)} what="the time between the marks">
            {lasting(apart)}
          </Copy>{" "}
          <small>apart{apart > 0 && `, ${often(apart)}`}</small>
          <IconButton aria-label="Take the marks off" title="Take the marks off" color="inherit" onClick={moved.unmark}>
            <Icon name="close" size={16} />
          </IconButton>
        </span>
      )}
      {limits > 0 && (
        <Quiet size="small" title="To the next limit that is broken (V)" onClick={() => step("limit", false)}>
          {limits === 1 ? "To the broken limit" : `To the next of ${limits} broken limits`}
        </Quiet>
      )}
      <Search id={id} found={found} at={w.at} look={moved.look} />
    </div>
  );
}

const kinds: { id: Sought; title: string; hint: string }[] = [
  { id: "text", title: "text", hint: "Tide" },
  { id: "byte", title: "byte", hint: "0x41" },
  { id: "address", title: "address", hint: "0x40" },
];

/** Looks for a text that is written, a byte, an address that is set. */
const Search = memo(function Search({
  id,
  found,
  at: now,
  look,
}: {
  id: string;
  found: boolean;
  at: number;
  look: (ns: number) => void;
}) {
  const [kind, setKind] = useState<Sought>("text");
  const [text, setText] = useState("");
  const [says, setSays] = useState<{ text: string; wrong?: boolean }>();
  if (!found) return null;
  const go = async (back: boolean) => {
    try {
      const at = await searchIn(id, kind, text, Math.round(now), back);
      if (at !== undefined) look(at);
      setSays({ text: at === undefined ? (back ? "not before" : "not after") : stamp(at) });
    } catch (e) {
      setSays({ text: reason(e), wrong: true });
    }
  };
  return (
    <span className={css.search} role="search">
      <List aria-label="What is looked for" value={kind} onChange={(e) => setKind(e.target.value as Sought)}>
        {kinds.map((k) => (
          <option key={k.id} value={k.id}>
            {k.title}
          </option>
        ))}
      </List>
      <TextBox
        aria-label="Look for"
        size={9}
        placeholder={kinds.find((k) => k.id === kind)?.hint}
        value={text}
        aria-invalid={says?.wrong}
        aria-describedby="recording-found"
        onChange={(e) => {
          setText(e.target.value);
          setSays(undefined);
        }}
        onKeyDown={(e) => {
          if (e.key !== "Enter") return;
          e.preventDefault();
          void go(e.shiftKey);
        }}
      />
      <IconButton
        aria-label="Look before"
        title="Before this time (Shift+Enter)"
        color="inherit"
        onClick={() => void go(true)}
      >
        <Icon name="left" />
      </IconButton>
      <IconButton
        aria-label="Look after"
        title="After this time (Enter)"
        color="inherit"
        onClick={() => void go(false)}
      >
        <Icon name="right" />
      </IconButton>
      <small id="recording-found" role="status" data-wrong={says?.wrong ?? undefined}>
        {says?.text}
      </small>
    </span>
  );
});
