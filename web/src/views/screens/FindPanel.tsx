import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { searchQuery } from "../../api/screens";
import { useBase } from "../../ui/places";
import { useRested } from "../../ui/useRested";
import { useBench } from "../../work/BenchContext";
import { reason } from "../../work/reason";
import { readable } from "../../work/typing/rows";
import { planOf } from "../../work/setup";
import { Bare } from "../../ui/Bare";
import { TextBox } from "../../ui/TextBox";
import css from "./FindPanel.module.css";

type Hit = Schemas["SearchHit"];

/** A text looked for on all screens of the bench, whatever its case, its accents and the width of its characters. */
export default function FindPanel() {
  const { bench, selectModule, selectScreen, module } = useBench();
  const [text, setText] = useState("");
  const input = useRef<HTMLInputElement>(null);
  const base = useBase();
  const rested = useRested(bench, bench.name);
  const { data, error } = useQuery(
    searchQuery({ ...planOf(rested), modules: rested.modules, wiring: undefined }, text),
  );
  useEffect(() => input.current?.focus(), []);
  const go = (h: Hit) => {
    const m = bench.modules[h.module];
    const s = m?.screens[h.screen];
    if (!m || !s) return;
    selectScreen(s.id, m.id);
    if (m.id !== module.id) selectModule(m.id);
  };
  const hits = text.trim() ? (data?.hits ?? []) : [];
  return (
    <section className={css.panel} aria-label="Find">
      <label className={css.field}>
        Find on all screens
        <TextBox ref={input} type="search" value={text} placeholder="tide" onChange={(e) => setText(e.target.value)} />
      </label>
      {error && <p role="alert">{reason(error)}</p>}
      {text.trim() && data && (
        <p role="status" className={css.said}>
          {hits.length === 0
            ? "On no screen. Capitals, accents and the width of characters do not matter."
            : `${hits.length} ${hits.length === 1 ? "place" : "places"}`}
        </p>
      )}
      <ol className={css.hits}>
        {hits.map((h, i) => {
          const m = bench.modules[h.module];
          const s = m?.screens[h.screen];
          return (
            <li key={i}>
              <Bare onClick={() => go(h)}>
                <b>{m?.name || "unnamed module"}</b>
                <span>{s?.name || `screen ${h.screen + 1}`}</span>
                <span>
                  row {h.row + base}, column {h.col + base}
                  {h.field > 0 && `, field ${s?.fields?.[h.field - 1]?.name}`}
                </span>
                <code>
                  <Marked hit={h} />
                </code>
              </Bare>
            </li>
          );
        })}
      </ol>
    </section>
  );
}

/** The row with what was found in it set off. */
function Marked({ hit }: { hit: Hit }) {
  const cells = Array.from(hit.text, readable);
  if (hit.field > 0) return <>{hit.text}</>;
  return (
    <>
      {cells.slice(0, hit.col).join("")}
      <mark>{cells.slice(hit.col, hit.col + hit.len).join("")}</mark>
      {cells.slice(hit.col + hit.len).join("")}
    </>
  );
}
