import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { logFile, logKey, logQuery, strikeEntry, type Entry, type LogFilter } from "../../api/faults";
import { useBench } from "../../work/BenchContext";
import { reason } from "../../work/reason";
import { EntryLine } from "./EntryLine";
import { NewEntry } from "./NewEntry";
import { kinds } from "./kinds";
import { Strip } from "./Strip";
import { Trouble } from "../../parts/trouble/Trouble";
import { useSteady } from "../../work/useSteady";
import { List } from "../../ui/List";
import { Quiet } from "../../ui/Quiet";
import { Bare } from "../../ui/Bare";
import { TextBox } from "../../ui/TextBox";
import { ToView } from "../../parts/ToView";
import css from "./LogView.module.css";

/** What was written down at the bench, day by day. */
export default function LogView() {
  const { id, bench } = useBench();
  const queries = useQueryClient();
  const [chosen, setChosen] = useState<string[]>([]);
  const [module, setModule] = useState("");
  const [text, setText] = useState("");
  const filter: LogFilter = { kinds: chosen.join(","), module, text: useDeferredValue(text) };
  const { data: log, trouble, again: readAgain } = useSteady(useQuery(logQuery(id, filter)));
  const [refused, setRefused] = useState<string>();
  const [struck, setStruck] = useState<Entry>();
  const [leaving, setLeaving] = useState<Entry["id"][]>([]); // deleted here, or being deleted: out of sight at once
  const again = () => queries.invalidateQueries({ queryKey: logKey });
  const strike = async (e: Entry) => {
    setLeaving((list) => [...list, e.id]);
    try {
      await strikeEntry(id, e.id ?? 0);
      setStruck(e);
      setRefused(undefined);
      await again();
    } catch (err) {
      setRefused(reason(err));
      setLeaving((list) => list.filter((n) => n !== e.id));
    }
  };
  const troubled = <Trouble trouble={trouble} stale={log !== undefined} again={readAgain} />;
  if (!log) return trouble ? troubled : <p>Opening the log…</p>;
  const entries = log.entries.filter((e) => !leaving.includes(e.id));
  const days = byDay(entries);
  const filtered = chosen.length > 0 || module !== "" || text !== "";
  return (
    <div className={css.view}>
      <div className={css.main}>
        {troubled}
        <header className={css.bar}>
          <TextBox
            type="search"
            placeholder="Search the log"
            aria-label="Search the log"
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
          <List aria-label="Module" value={module} onChange={(e) => setModule(e.target.value)}>
            <option value="">Every module</option>
            {bench.modules.map((m) => (
              <option key={m.id} value={m.id}>
                {m.name || m.id}
              </option>
            ))}
          </List>
          <span className={css.files}>
            <Quiet component="a" href={logFile(id, "md", filter)}>
              Markdown
            </Quiet>
            <Quiet component="a" href={logFile(id, "csv", filter)}>
              CSV
            </Quiet>
            <Quiet onClick={() => window.print()}>Print</Quiet>
          </span>
        </header>
        <div className={css.kinds} role="group" aria-label="Kinds of entries">
          {kinds.map((k) => (
            <Bare
              key={k.kind}
              data-kind={k.kind}
              aria-pressed={chosen.includes(k.kind)}
              onClick={() =>
                setChosen(chosen.includes(k.kind) ? chosen.filter((o) => o !== k.kind) : [...chosen, k.kind])
              }
            >
              {k.title}
            </Bare>
          ))}
        </div>
        <Strip entries={entries} />
        {refused && <p role="alert">{refused}</p>}
        {struck && <p role="status">An entry was deleted: “{struck.text.slice(0, 60)}”.</p>}
        {entries.length === 0 && (
          <div className={css.none}>
            <p>
              {filtered
                ? "No entry is like that."
                : "Nothing is written down yet. What you measure in a first power-up, what a scan finds and which causes you find are written here by themselves; write what else you learn beside it."}
            </p>
            {!filtered && <ToView view="wiring">To the first power-up</ToView>}
          </div>
        )}
        <div className={css.days}>
          {days.map(([day, list]) => (
            <section key={day} aria-label={day}>
              <h2>{day}</h2>
              <ul>
                {list.map((e) => (
                  <EntryLine
                    key={e.id}
                    bench={id}
                    entry={e}
                    module={bench.modules.find((m) => m.id === e.module)?.name ?? e.module}
                    onChanged={() => void again()}
                    onStrike={() => void strike(e)}
                  />
                ))}
              </ul>
            </section>
          ))}
        </div>
      </div>
      <aside className={css.side}>
        <NewEntry onAdded={() => setStruck(undefined)} />
        <p className={css.total}>
          {log.entries.length === log.total
            ? `${log.total} ${log.total === 1 ? "entry" : "entries"}`
            : `${log.entries.length} of ${log.total} entries`}
          . They go with the bench when it is exported.
        </p>
      </aside>
    </div>
  );
}

/** Entries by the day they were written, in their order. */
function byDay(entries: Entry[]): [string, Entry[]][] {
  const out = new Map<string, Entry[]>();
  for (const e of entries) {
    const day = new Date(e.at).toLocaleDateString(undefined, {
      weekday: "long",
      day: "numeric",
      month: "long",
      year: "numeric",
    });
    out.set(day, [...(out.get(day) ?? []), e]);
  }
  return [...out];
}
