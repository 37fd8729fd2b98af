import { memo, useEffect, useMemo, useRef, useState, type KeyboardEvent } from "react";
import type { CodeFile } from "../../api/code";
import { highlighted } from "./highlight";
import { partOf, within, type Part, type Place } from "./parts";
import css from "./Listing.module.css";

interface Props {
  file: CodeFile;
  /** What is pointed at: its lines are marked. */
  pointed: Part | undefined;
  /** Where to go; a new object goes there again. */
  goal: Place | undefined;
  onPoint: (part: Part | undefined) => void;
  onOwn: (section: string, text: string) => void;
}

/** A file with its colours. Lines that come from a screen carry its number; own sections are written in. */
export const Listing = memo(function Listing({ file, pointed, goal, onPoint, onOwn }: Props) {
  const lines = useMemo(() => highlighted(file.name, file.text), [file]);
  const parts = useMemo(() => lines.map((_, i) => partOf(file, i + 1)), [file, lines]);
  const [moved, setMoved] = useState<{ goal: Place | undefined; line: number }>();
  const here = moved && moved.goal === goal ? moved.line : (goal?.first ?? 1);
  const setHere = (line: number) => setMoved({ goal, line });
  const list = useRef<HTMLDivElement>(null);
  const line = (n: number) => list.current?.querySelector(`[data-line="${n}"]`);

  useEffect(() => {
    if (goal) list.current?.querySelector(`[data-line="${goal.first}"]`)?.scrollIntoView({ block: "center" });
  }, [goal, file]);

  const onKey = (e: KeyboardEvent) => {
    if (e.target instanceof HTMLTextAreaElement) return;
    const by = { ArrowUp: -1, ArrowDown: 1, PageUp: -20, PageDown: 20, Home: -lines.length, End: lines.length }[e.key];
    if (!by) return;
    e.preventDefault();
    const next = Math.min(Math.max(here + by, 1), lines.length);
    setHere(next);
    onPoint(parts[next - 1]);
    line(next)?.scrollIntoView({ block: "nearest" });
  };
  const rows = lines.flatMap((html, i) => {
    const n = i + 1;
    const own = file.sections.find((s) => s.first === n);
    const before = own && (
      <Own
        key={"own " + own.name}
        name={own.name}
        first={n}
        text={file.text
          .split("\n")
          .slice(own.first - 1, own.last)
          .join("\n")}
        onChange={(t) => onOwn(own.name, t)}
      />
    );
    if (file.sections.some((s) => s.first <= n && n <= s.last)) return before ?? [];
    const part = parts[n - 1];
    const above = parts[n - 2];
    const begins = part && !(above && within(above, part));
    return [
      before,
      <div
        key={n}
        data-line={n}
        className={css.line}
        data-here={n === here || undefined}
        data-part={part ? "" : undefined}
        data-pointed={(part && pointed && within(part, pointed)) || undefined}
        onPointerEnter={() => onPoint(part)}
        onClick={() => setHere(n)}
      >
        <span className={css.number}>{n}</span>
        <span className={css.from}>{begins ? part.screen + 1 : ""}</span>
        <code dangerouslySetInnerHTML={{ __html: html || " " }} />
      </div>,
    ];
  });
  return (
    <div
      ref={list}
      className={css.listing}
      tabIndex={0}
      role="region"
      aria-label={`${file.name}, ${lines.length} lines`}
      onKeyDown={onKey}
      onPointerLeave={() => onPoint(undefined)}
    >
      {rows}
    </div>
  );
});

/** An own section: written here, and kept when the file is written again. */
function Own({
  name,
  first,
  text,
  onChange,
}: {
  name: string;
  first: number;
  text: string;
  onChange: (t: string) => void;
}) {
  const [draft, setDraft] = useState<string>();
  return (
    <label className={css.own}>
      <span className={css.number}>{first}</span>
      <span className={css.ownName}>yours: {name}</span>
      <textarea
        aria-label={`Own section: ${name}`}
        spellCheck={false}
        rows={Math.max((draft ?? text).split("\n").length, 1)}
        placeholder="Your own lines stay here when the file is written again."
        value={draft ?? text}
        maxLength={20000}
        onChange={(e) => {
          setDraft(e.target.value);
          onChange(e.target.value);
        }}
        onBlur={() => setDraft(undefined)}
      />
    </label>
  );
}
