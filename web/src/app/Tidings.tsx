import Button from "@mui/material/Button";
import { useEffect, useState, type ReactNode } from "react";
import type { BenchDocument } from "../api/client";
import { useBench, useSavingState } from "../work/BenchContext";
import { forget, leftBehind, type Kept } from "../work/kept";
import { same } from "../work/patch";
import { useMe } from "../work/useMe";
import { TidingsContext } from "./TidingsContext";
import { moment } from "../ui/numbers";
import css from "./Tidings.module.css";

/** What must be said about the bench as it is stored, above every view. */
export function Tidings({ document: opened, children }: { document: BenchDocument; children: ReactNode }) {
  // What a page left behind may have arrived all the same.
  const [kept, setKept] = useState(() => leftBehind(opened.id).filter((k) => !same(k.bench, opened.bench)));
  useEffect(() => {
    for (const k of leftBehind(opened.id)) if (same(k.bench, opened.bench)) forget(opened.id, k.key);
  }, [opened]);
  const settle = (k: Kept) => {
    forget(opened.id, k.key);
    setKept((all) => all.filter((other) => other !== k));
  };
  return (
    <TidingsContext
      value={
        <div>
          <Watching />
          <Conflict />
          {kept[0] && <Return kept={kept[0]} opened={opened} onSettled={settle} />}
        </div>
      }
    >
      {children}
    </TidingsContext>
  );
}

/** A device that was let in to watch. */
function Watching() {
  const { role } = useMe();
  if (role !== "watches") return null;
  return (
    <section className={css.bar} role="note">
      <p>This device watches: what others do is seen here, and nothing is changed. The desk can let it take part.</p>
    </section>
  );
}

/** What was changed here was changed elsewhere too: the maker chooses, and nothing is lost. */
function Conflict() {
  const { module } = useBench();
  const { save, keepMine, takeTheirs } = useSavingState();
  if (save.kind !== "conflict") return null;
  const theirs = save.theirs.bench.modules.find((m) => m.id === module.id);
  const rows = theirs?.screens[0]?.rows ?? [];
  return (
    <section className={css.bar} role="alert">
      <p>
        <strong>What you changed was changed elsewhere too</strong> (now revision {save.theirs.revision}), so your last
        change is not saved yet. There, {module.name} reads{" "}
        {rows.length ? rows.map((r, i) => <code key={i}>{r || " "}</code>) : "nothing"}. Whatever only one of you
        changed stays as it is.
      </p>
      <Button variant="contained" onClick={() => keepMine(save.theirs)}>
        Keep mine
      </Button>
      <Button variant="outlined" onClick={() => takeTheirs(save.theirs)} title="Undo brings yours back">
        Take theirs
      </Button>
    </section>
  );
}

interface ReturnProps {
  kept: Kept;
  opened: BenchDocument;
  onSettled: (k: Kept) => void;
}

/** Changes that a page was closed with before they could be stored. */
function Return({ kept, opened, onSettled }: ReturnProps) {
  const { bench, change } = useBench();
  const arrived = same(kept.bench, bench);
  useEffect(() => {
    if (arrived) onSettled(kept); // after the page had been opened again
  }, [arrived, kept, onSettled]);
  const newer = opened.revision !== kept.revision;
  return (
    <section className={css.bar} role="alert">
      <p>
        <strong>Changes of {moment(kept.at)} could not be stored</strong> before the page was closed, and were kept in
        this browser.{" "}
        {newer &&
          `The bench was changed since, from revision ${kept.revision} to ${opened.revision}: taking them up replaces that; undo brings it back.`}
      </p>
      <Button
        variant="contained"
        onClick={() => {
          change(() => kept.bench);
          onSettled(kept);
        }}
      >
        Take them up
      </Button>
      <Button variant="outlined" onClick={() => onSettled(kept)}>
        Leave them
      </Button>
    </section>
  );
}
