import Button from "@mui/material/Button";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { Link } from "react-router-dom";
import { client, importBench, patchBench, unwrap, type Summary } from "../../api/client";
import { benchesQuery, binQuery } from "../../api/queries";
import { Bell } from "../../ui/Bell";
import { Icon } from "../../ui/Icon";
import { ThemeChoice } from "../../ui/ThemeChoice";
import { useDrop } from "../../ui/useDrop";
import { reason } from "../../work/reason";
import { BenchCard } from "./BenchCard";
import { Bin } from "./Bin";
import css from "./ShelfView.module.css";

/** Files of benches have this many bytes at most; the program refuses longer ones. */
const LONGEST = 4 << 20;

/** What was done last, with a way back. */
interface Done {
  text: string;
  back?: () => Promise<unknown>;
}

/** All benches: to open, begin, copy, pass on and take away. */
export default function ShelfView() {
  const queries = useQueryClient();
  const { data: benches, error, failureReason } = useQuery({ ...benchesQuery, staleTime: 0 });
  const { data: bin } = useQuery({ ...binQuery, staleTime: 0 });
  const [done, setDone] = useState<Done>();
  const [refused, setRefused] = useState<string>();
  const file = useRef<HTMLInputElement>(null);

  useEffect(() => {
    document.title = "Benches · Slate Bell";
  }, []);

  const running = useRef(new Set<string>());
  /**
   * Does something to the shelf, shows it, and says why where it cannot be done. What has a key
   * is done once, however often it is pressed until the shelf shows it.
   */
  const act = useCallback(
    async (what: () => Promise<Done | undefined>, key?: string) => {
      if (key && running.current.has(key)) return;
      if (key) running.current.add(key);
      setRefused(undefined);
      try {
        setDone(await what());
      } catch (e) {
        setDone(undefined);
        setRefused(reason(e));
      }
      await Promise.all([
        queries.invalidateQueries({ queryKey: benchesQuery.queryKey }),
        queries.invalidateQueries({ queryKey: binQuery.queryKey }),
      ]);
      if (key) running.current.delete(key);
    },
    [queries],
  );

  const duplicate = (b: Summary) =>
    act(async () => {
      const copy = unwrap(await client.POST("/api/benches/{id}/copies", { params: { path: { id: b.id } } }));
      return { text: `Copied to “${copy.bench.name}”`, back: () => discard(copy.id) };
    });
  const restore = (b: Summary) =>
    act(async () => {
      await takeOut(b.id);
      return { text: `“${b.name}” is back on the shelf`, back: () => discard(b.id) };
    }, `restore ${b.id}`);
  const remove = (b: Summary) =>
    act(async () => {
      await discard(b.id);
      return { text: `“${b.name}” is in the bin`, back: () => takeOut(b.id) };
    }, `remove ${b.id}`);
  const read = (f: File | undefined) =>
    act(async () => {
      if (!f) return undefined;
      if (f.size > LONGEST) throw new Error(`${f.name} has ${f.size} bytes; a bench has ${LONGEST} at most`);
      const text = await f.text();
      try {
        const made = await importBench(text);
        return { text: `${f.name} is on the shelf as “${made.bench.name}”`, back: () => discard(made.id) };
      } catch (e) {
        throw new Error(`${f.name} was not imported: ${reason(e)}`, { cause: e });
      }
    });
  const { over, drops } = useDrop((files) => void read(files[0]));

  return (
    <div className={css.page} data-dragged={over || undefined} {...drops}>
      <header className={css.bar}>
        <Bell />
        <h1>Benches</h1>
        <Button variant="contained" component={Link} to="/benches/new" startIcon={<Icon name="plus" size={17} />}>
          New bench
        </Button>
        <Button variant="outlined" onClick={() => file.current?.click()} startIcon={<Icon name="up" size={17} />}>
          Import a file
        </Button>
        <input
          ref={file}
          type="file"
          hidden
          accept=".json,application/json"
          aria-label="Bench document"
          onChange={(e) => {
            const chosen = e.target.files?.[0];
            e.target.value = "";
            void read(chosen);
          }}
        />
        <span className={css.gap} />
        <Button
          href="/api/backup"
          download
          startIcon={<Icon name="down" size={17} />}
          title="A copy of the whole database"
        >
          Copy of everything
        </Button>
        <ThemeChoice />
      </header>
      <main className={css.main}>
        <div aria-live="polite" className={css.said}>
          {refused && (
            <p role="alert" className={css.refused}>
              {refused}
            </p>
          )}
          {done && (
            <p>
              {done.text}
              {done.back && (
                <Button
                  size="small"
                  onClick={() =>
                    void act(async () => {
                      await done.back?.();
                      return { text: "Undone" };
                    }, "undo")
                  }
                >
                  Undo
                </Button>
              )}
            </p>
          )}
        </div>
        {!benches && <p>{(error ?? failureReason) ? reason(error ?? failureReason) : "Opening…"}</p>}
        {benches?.length === 0 && (
          <p className={css.empty}>
            The shelf is empty. Begin a new bench, or drop a bench’s file here; files of earlier versions are read too.
          </p>
        )}
        <ul className={css.shelf}>
          {benches?.map((b) => (
            <li key={b.id}>
              <BenchCard
                bench={b}
                onDuplicate={() => void duplicate(b)}
                onRemove={() => void remove(b)}
                onRename={(name) => void act(() => rename(b, name))}
              />
            </li>
          ))}
        </ul>
        {bin && bin.length > 0 && (
          <Bin
            benches={bin}
            onRestore={(b) => void restore(b)}
            onEmpty={() =>
              void act(async () => {
                const { deleted } = unwrap(await client.DELETE("/api/bin"));
                return { text: deleted === 1 ? "One bench is gone for good" : `${deleted} benches are gone for good` };
              })
            }
          />
        )}
        <p className={css.notices}>
          <a href="/notices.txt">Notices of the parts inside</a>
        </p>
      </main>
    </div>
  );
}

async function discard(id: number) {
  await client.DELETE("/api/benches/{id}", { params: { path: { id } } });
}

async function takeOut(id: number) {
  return unwrap(await client.POST("/api/benches/{id}/restore", { params: { path: { id } } }));
}

async function rename(b: Summary, name: string): Promise<Done> {
  const send = (revision: number, to: string) =>
    patchBench(b.id, revision, JSON.stringify([{ op: "replace", path: "/name", value: to }]), false);
  const { revision } = await send(b.revision, name);
  return { text: `“${b.name}” is now “${name}”`, back: () => send(revision, b.name) };
}
