import { useQuery } from "@tanstack/react-query";
import { useCallback, useDeferredValue, useMemo, useState, type ReactNode } from "react";
import { codeQuery, readOwn, writeTool, type Code, type CodeFile, type Language } from "../../api/code";
import { Findings } from "../../parts/findings/Findings";
import { Copy } from "../../ui/Copy";
import { Icon } from "../../ui/Icon";
import { Tabs } from "../../ui/Tabs";
import { keep } from "../../ui/keep";
import { useDrop } from "../../ui/useDrop";
import { useRested } from "../../ui/useRested";
import { Trouble } from "../../parts/trouble/Trouble";
import { useBench } from "../../work/BenchContext";
import { withOwn } from "../../work/own";
import { reason } from "../../work/reason";
import { useSteady } from "../../work/useSteady";
import { Quiet } from "../../ui/Quiet";
import { Bare } from "../../ui/Bare";
import { BuildHere } from "./BuildHere";
import { Listing } from "./Listing";
import { Parts } from "./Parts";
import { placesOf, type Part, type Place } from "./parts";
import { keepAll } from "../../ui/keepAll";
import { Heap, Size } from "./Size";
import { TakeOver, type TakenOver } from "./TakeOver";
import { ToView } from "../../parts/ToView";
import { isBare } from "../../work/typing/rows";
import css from "./CodeView.module.css";

const languages = [
  { id: "c", title: "C" },
  { id: "sketch", title: "Sketch" },
  { id: "micropython", title: "MicroPython" },
] as const;

const scopes = [
  { id: "module", title: "This module" },
  { id: "bench", title: "Whole bench" },
] as const;

/** The program that sends what was composed: its files, which part of the bench each line comes from, and its proof. */
export default function CodeView() {
  const { bench, module, id, change, selectScreen } = useBench();
  const [language, setLanguage] = useState<Language>();
  const [scope, setScope] = useState<"module" | "bench">("module");
  const asked = useRested(bench, module.id);
  const body = useMemo(() => ({ ...asked, wiring: undefined }), [asked]);
  const at =
    scope === "bench"
      ? -1
      : Math.max(
          asked.modules.findIndex((m) => m.id === module.id),
          0,
        );
  const query = useQuery(codeQuery(body, at, language));
  const { data, trouble, again } = useSteady(query);
  const old = query.isPlaceholderData || trouble !== null;
  const [role, setRole] = useState<string>();
  const [pointed, setPointed] = useState<Part>();
  const shown = useDeferredValue(pointed);
  const [goal, setGoal] = useState<Place>();
  const [turn, setTurn] = useState(0);

  const jump = useCallback(
    (part: Part) => {
      if (!data) return;
      const places = placesOf(data.files, part);
      const next = places[turn % Math.max(places.length, 1)];
      setPointed(part);
      if (!next) return;
      setTurn(turn + 1);
      setRole(data.files[next.file]?.role);
      setGoal({ ...next });
    },
    [data, turn],
  );
  const file = data?.files.find((f) => f.role === role) ?? data?.files[0];
  const own = useCallback(
    (section: string, text: string) => {
      if (file) change((b) => withOwn(b, file.role, section, text), `own ${file.role} ${section}`);
    },
    [change, file],
  );

  const [taken, setTaken] = useState<TakenOver>();
  const takeOver = async (files: File[]) => {
    if (files.length === 0) return;
    try {
      const read = await readOwn(await Promise.all(files.map(async (f) => ({ name: f.name, text: await f.text() }))));
      if (read.own.length > 0) change((b) => read.own.reduce((to, s) => withOwn(to, s.file, s.section, s.text), b));
      setTaken({ sections: read.own.length, refused: read.refused });
    } catch (e) {
      setTaken({ sections: 0, refused: [{ name: files.map((f) => f.name).join(", "), why: reason(e) }] });
    }
  };

  const { over, drops } = useDrop((files) => void takeOver([...files]));

  return (
    <div className={css.view} data-over={over || undefined} {...drops}>
      <header className={css.bar}>
        <Tabs
          label="Language"
          tabs={languages}
          value={language ?? data?.language ?? "c"}
          onChange={(l) => {
            setLanguage(l);
            setRole(undefined);
            setGoal(undefined);
          }}
        />
        <Tabs label="What for" tabs={scopes} value={scope} onChange={setScope} />
        {data && <Proven code={data} />}
        {data?.size && <Size size={data.size} />}
        {data?.heap !== undefined && <Heap heap={data.heap} of={data.heapOf} />}
      </header>
      <Trouble trouble={trouble} stale={data !== undefined} again={again} />
      {bench.modules.every((m) => m.screens.every((s) => isBare(s.rows))) && (
        <div className={css.empty}>
          <p>No screen has a text yet: this program initialises the glass, and shows nothing.</p>
          <ToView view="screens">Type a text first</ToView>
        </div>
      )}
      {!data && !trouble && <p className={css.wait}>Writing, and playing it into the module…</p>}
      {data && file && (
        <div className={css.body} data-old={old || undefined}>
          <aside className={css.side} aria-label="Files">
            <Tree files={data.files} at={file} onChoose={setRole} />
            <div className={css.take}>
              <Quiet onClick={() => keep(bare(file.name), file.text)}>
                <Icon name="down" size={16} /> {bare(file.name)}
              </Quiet>
              <Quiet
                onClick={() => keepAll(`${data.files[0]?.name.split(/[./]/)[0]}-${data.language}.zip`, data.files)}
              >
                <Icon name="down" size={16} /> All as ZIP
              </Quiet>
              <Copy text={file.text} what={bare(file.name)}>
                Copy {bare(file.name)}
              </Copy>
              <Quiet
                component="a"
                href={`/api/benches/${id}/modules/${module.id}/card`}
                target="_blank"
                rel="noreferrer"
              >
                Card for the wall
              </Quiet>
              <TakeOver onFiles={(files) => void takeOver(files)} taken={taken} />
            </div>
            {data.findings.length > 0 && <Findings findings={data.findings} onStep={() => undefined} />}
          </aside>
          <Listing key={file.role} file={file} pointed={shown} goal={goal} onPoint={setPointed} onOwn={own} />
          <div className={css.right}>
            <How steps={data.steps} onTool={(tool) => writeTool(body, at, tool)}>
              {data.builds && <BuildHere bench={body} module={at} />}
            </How>
            <Parts
              modules={scope === "bench" ? bench.modules : [module]}
              files={data.files}
              pointed={pointed}
              onPoint={setPointed}
              onJump={(part, screen) => {
                if (bench.modules[part.module]?.id === module.id) selectScreen(screen);
                jump(part);
              }}
            />
          </div>
        </div>
      )}
    </div>
  );
}

/** What came of playing the program into the simulated module. */
function Proven({ code }: { code: Code }) {
  return (
    <p className={css.proven} data-wrong={!code.proved || undefined}>
      {code.proved
        ? "Its calls, played: every glass as composed, no limit broken"
        : "Its calls, played: not all is as composed, see what was found"}
      <span>
        {code.calls} calls, {code.words.toLocaleString("en")} words on the wire
      </span>
    </p>
  );
}

/** The files that are written, and how long each is. */
function Tree({ files, at, onChoose }: { files: CodeFile[]; at: CodeFile; onChoose: (role: string) => void }) {
  const longest = Math.max(...files.map((f) => f.text.length));
  return (
    <ul className={css.tree}>
      {files.map((f) => (
        <li key={f.role}>
          <Bare aria-current={f === at || undefined} onClick={() => onChoose(f.role)}>
            <span className={css.name} title={f.name}>
              {bare(f.name)}
            </span>
            <span className={css.lines}>
              {f.text.split("\n").length - 1} lines{purposes[f.role] && `, ${purposes[f.role]}`}
            </span>
            <span className={css.length} style={{ inlineSize: `${Math.max((100 * f.text.length) / longest, 2)}%` }} />
          </Bare>
        </li>
      ))}
    </ul>
  );
}

/** A file's name without the folder that it stands in. */
const bare = (name: string): string => name.split("/").at(-1) ?? name;

/** What each file is for. */
const purposes: Record<string, string> = {
  "bench.h": "the calls",
  "bench.c": "tables and driver",
  "port.h": "what a host does",
  "port_avr.c": "ATmega",
  "port_calls.h": "any other host",
  "port_calls.c": "any other host",
  "inputs.h": "what is read",
  "inputs.c": "pins, read",
  "bench.ino": "setup and loop",
  "port.ino": "any other board",
  "main.c": "example",
  "bench.py": "tables and driver",
  "inputs.py": "pins, read",
  "main.py": "example",
};

const tools = [
  { id: "scanner", title: "Scanner", says: "prints every address of the bus that answers" },
  { id: "test", title: "First test", says: "shows a block, a row of blocks, letters of the ROM, a second each" },
  {
    id: "chart-screens",
    title: "ROM chart",
    says: "shows all codes of the ROM, to be photographed and learnt under Module",
  },
  { id: "bridge", title: "Bridge", says: "lets this page drive the real modules, under Live" },
] as const;

interface HowProps {
  children: ReactNode;
  steps: Code["steps"];
  onTool: (tool: (typeof tools)[number]["id"]) => ReturnType<typeof writeTool>;
}

/** What brings the files onto the host, and what one must see; and small programs to try before. */
function How({ children, steps, onTool }: HowProps) {
  const [refused, setRefused] = useState<string>();
  const take = async (tool: (typeof tools)[number]["id"]) => {
    try {
      keepAll(`${tool}.zip`, (await onTool(tool)).files);
      setRefused(undefined);
    } catch (e) {
      setRefused(reason(e));
    }
  };
  return (
    <section className={css.how} aria-label="Onto the host">
      <h2>Onto the host</h2>
      <ol>
        {steps.map((s, i) => (
          <li key={i}>
            {s.do}
            {s.command && (
              <Copy text={s.command} what={s.command}>
                <code>{s.command}</code>
              </Copy>
            )}
            {s.see && <small>{s.see}</small>}
          </li>
        ))}
        <li>Unplug the host before you change wires.</li>
      </ol>
      {children}
      <p className={css.tools}>
        To try first:
        {tools.map((t) => (
          <Quiet key={t.id} title={`It ${t.says}`} onClick={() => void take(t.id)}>
            <Icon name="down" size={16} /> {t.title}
          </Quiet>
        ))}
      </p>
      {refused && <p role="alert">{refused}</p>}
    </section>
  );
}
