import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useMemo, useRef, useState } from "react";
import { type Drawing } from "../../api/client";
import { readGlyphs, shippedQuery } from "../../api/glyphs";
import { Cells } from "../../parts/dots/Cells";
import { useBench } from "../../work/BenchContext";
import { heightOf, sheetOf, tall, type Target } from "../../work/glyphs";
import { reason } from "../../work/reason";
import { base64Of } from "./files";
import { useGlyphEdits } from "./useGlyphEdits";
import { Export } from "./Export";
import { List } from "../../ui/List";
import { Bare } from "../../ui/Bare";
import { TextBox } from "../../ui/TextBox";
import css from "./LibraryPanel.module.css";

interface Props {
  target: Target;
  onChoose: (t: Target) => void;
  /** Writes it at the caret on the glass. */
  onPut: (t: Target) => void;
}

/** The glyphs of the bench, and those that ship with the program: searched, taken, begun, imported and exported. */
export function LibraryPanel({ target, onChoose, onPut }: Props) {
  const { bench, module } = useBench();
  const { edit, refused } = useGlyphEdits();
  const { data: shipped, error } = useQuery(shippedQuery);
  const [search, setSearch] = useState("");
  const [trouble, setTrouble] = useState<string>();
  const words = useDeferredValue(search);
  const file = useRef<HTMLInputElement>(null);
  const height = heightOf(module);
  const own = useMemo(() => ownOf(bench.glyphs ?? []), [bench.glyphs]);
  const found = useMemo(() => (shipped ?? []).filter((d) => matches(d, words)), [shipped, words]);
  const mine = own.filter((o) => matches(o.drawing, words));

  const add = async (drawings: Drawing[]) => {
    const made = await edit({ do: "add", drawings });
    const part = drawings[0]?.part;
    const key = made?.keys?.[0];
    if (made && part) onChoose({ kind: "picture", name: part.picture });
    else if (key) onChoose({ kind: "drawing", key });
  };
  const begin = async (cols: number, rows: number) => {
    if (cols * rows === 1) {
      await add([{ name: freeName(bench.glyphs ?? []), rows: tall([], 8) }]);
      return;
    }
    const drawings = Array.from({ length: cols * rows }, (_, i) => ({
      name: "",
      rows: tall([], 8),
      part: { picture: "picture", col: i % cols, row: Math.floor(i / cols) },
    }));
    const made = await edit({ do: "frame", drawings });
    if (made?.picture) onChoose({ kind: "picture", name: made.picture });
  };
  const take = async (files: FileList | null) => {
    for (const f of Array.from(files ?? [])) {
      try {
        const got = await readGlyphs({ data: await base64Of(f) });
        if (got.error) {
          const { line, col, what } = got.error;
          setTrouble(`${f.name}${line ? `, line ${line}, column ${col}` : ""}: ${what}`);
          return;
        }
        setTrouble(undefined);
        const stem = f.name.replace(/\.\w+$/, "");
        await add(got.glyphs.map((g, i) => ({ ...g, key: undefined, name: g.name || `${stem} ${i + 1}` })));
      } catch (e) {
        setTrouble(reason(e));
        return;
      }
    }
  };
  return (
    <section className={css.library} aria-label="Library">
      <div className={css.begin}>
        <Button variant="outlined" size="small" onClick={() => void begin(1, 1)}>
          New glyph
        </Button>
        <NewPicture onBegin={(cols, rows) => void begin(cols, rows)} />
        <Button size="small" onClick={() => file.current?.click()}>
          Import…
        </Button>
        <input
          ref={file}
          type="file"
          className="unseen"
          tabIndex={-1}
          aria-label="File of glyphs: JSON, BDF, PBM, PNG or text"
          multiple
          onChange={(e) => {
            void take(e.target.files);
            e.target.value = "";
          }}
        />
        <Export glyphs={bench.glyphs ?? []} name={bench.name || "glyphs"} />
      </div>
      {(trouble ?? refused) && <p role="alert">{trouble ?? refused}</p>}
      <TextBox
        type="search"
        aria-label="Search the glyphs"
        placeholder="tide, é, battery, Polish"
        value={search}
        onChange={(e) => setSearch(e.target.value)}
      />
      {(search === "" || mine.length > 0) && <h2>On this bench</h2>}
      {own.length === 0 && <p className="lead">None yet. Take one of those below, or draw your own.</p>}
      <ul className={css.tiles}>
        {mine.map((o) => {
          const sheet = sheetOf(bench, module, o.target);
          const here = JSON.stringify(o.target) === JSON.stringify(target);
          return (
            sheet && (
              <li key={JSON.stringify(o.target)}>
                <Bare
                  className={css.tile}
                  aria-pressed={here}
                  title={`${sheet.name}: to the desk; a double click writes it on the glass`}
                  onClick={() => onChoose(o.target)}
                  onDoubleClick={() => onPut(o.target)}
                >
                  <Cells cells={sheet.cells} cols={sheet.cols} dot={sheet.cols > 4 ? 2 : 3} />
                  <span>{sheet.name || "unnamed"}</span>
                </Bare>
              </li>
            )
          );
        })}
      </ul>
      <h2>That ship with the program</h2>
      {error && <p role="alert">{reason(error)}</p>}
      {search && found.length === 0 && mine.length === 0 && <p className="lead">Nothing is called “{search}”.</p>}
      {groups(found).map(([tag, list]) => (
        <Shipped
          key={tag}
          tag={tag}
          list={list}
          searched={search !== ""}
          height={height}
          onTake={(d) => void add([d])}
        />
      ))}
    </section>
  );
}

/** A letter by itself, a sign by its name. */
const titleOf = (d: Drawing): string => (d.tags?.[1] === "letter" ? (d.tags[0] ?? d.name) : d.name);

/** Whether a drawing is meant by what is searched for. */
function matches(d: Drawing, search: string): boolean {
  const s = search.trim().toLowerCase();
  if (!s) return true;
  const names = [d.name, ...(d.tags ?? []), d.part?.picture ?? ""].map((n) => n.toLowerCase());
  return s.length === 1 ? names.includes(s) : names.some((n) => n.includes(s));
}

/** Drawings by their group: letters under one, signs by their tag. */
function groups(list: Drawing[]): [string, Drawing[]][] {
  const out = new Map<string, Drawing[]>();
  for (const d of list) {
    const tag = d.tags?.[1] === "letter" ? "letters" : (d.tags?.[0] ?? "signs");
    out.set(tag, [...(out.get(tag) ?? []), d]);
  }
  return [...out];
}

/** What of the bench's library goes to the desk as one: drawings by themselves, pictures once. */
function ownOf(glyphs: Drawing[]): { target: Target; drawing: Drawing }[] {
  const seen = new Set<string>();
  return glyphs.flatMap((d): { target: Target; drawing: Drawing }[] => {
    if (d.part) {
      if (seen.has(d.part.picture)) return [];
      seen.add(d.part.picture);
      return [{ target: { kind: "picture", name: d.part.picture }, drawing: d }];
    }
    return d.key ? [{ target: { kind: "drawing", key: d.key }, drawing: d }] : [];
  });
}

const freeName = (glyphs: Drawing[]): string => {
  for (let n = 1; ; n++) if (!glyphs.some((d) => d.name === `glyph ${n}`)) return `glyph ${n}`;
};

/** Begins a picture of several cells. */
function NewPicture({ onBegin }: { onBegin: (cols: number, rows: number) => void }) {
  const [size, setSize] = useState("4x2");
  const [cols = 4, rows = 2] = size.split("x").map(Number);
  return (
    <span className={css.new}>
      <Button variant="outlined" size="small" onClick={() => onBegin(cols, rows)}>
        New picture
      </Button>
      <List aria-label="Size of the picture, in cells" value={size} onChange={(e) => setSize(e.target.value)}>
        {["2x1", "3x1", "4x1", "2x2", "3x2", "4x2", "5x2", "6x2", "8x2", "4x4"].map((s) => (
          <option key={s} value={s}>
            {s.replace("x", " × ")}
          </option>
        ))}
      </List>
    </span>
  );
}

interface ShippedProps {
  tag: string;
  list: Drawing[];
  /** They were searched for, so that they are open to see. */
  searched: boolean;
  height: number;
  onTake: (d: Drawing) => void;
}

/** A group of the glyphs that ship with the program; they are drawn once it is opened. */
function Shipped({ tag, list, searched, height, onTake }: ShippedProps) {
  const [opened, setOpened] = useState(false);
  const open = opened || searched;
  return (
    <details className={css.group} open={open} onToggle={(e) => !searched && setOpened(e.currentTarget.open)}>
      <summary>
        {tag} <small>{list.length}</small>
      </summary>
      {open && (
        <ul className={css.tiles}>
          {list.map((d) => (
            <li key={d.name}>
              <Bare
                className={css.tile}
                aria-label={`Take ${titleOf(d)}`}
                title={`${titleOf(d)}${(d.tags ?? []).length > 2 ? `: ${d.tags?.slice(2).join(", ")}` : ""}`}
                onClick={() => onTake(d)}
              >
                <Cells cells={[tall(d.rows, height)]} cols={1} dot={3} />
                <span>{titleOf(d)}</span>
              </Bare>
            </li>
          ))}
        </ul>
      )}
    </details>
  );
}
