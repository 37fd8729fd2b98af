import Button from "@mui/material/Button";
import { useBench, useSavingState } from "./BenchContext";
import css from "./ConflictBar.module.css";

/** Another tab stored a newer bench: the maker chooses, and nothing is lost. */
export function ConflictBar() {
  const { module } = useBench();
  const { save, keepMine, takeTheirs } = useSavingState();
  if (save.kind !== "conflict") return <div />;
  const theirs = save.theirs.bench.modules.find((m) => m.id === module.id);
  const rows = theirs?.screen.rows ?? [];
  return (
    <section className={css.bar} role="alert">
      <p>
        <strong>This bench was changed in another tab</strong> (now revision {save.theirs.revision}), so your last
        change is not saved yet. There, {module.name} reads{" "}
        {rows.length ? rows.map((r, i) => <code key={i}>{r || " "}</code>) : "nothing"}.
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
