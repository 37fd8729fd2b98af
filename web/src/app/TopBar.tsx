import IconButton from "@mui/material/IconButton";
import { memo } from "react";
import { Link } from "react-router-dom";
import { Bell } from "../ui/Bell";
import { Icon } from "../ui/Icon";
import { InlineText } from "../ui/InlineText";
import { ThemeChoice } from "../ui/ThemeChoice";
import { useBench, useSavingState, type BenchWork } from "../work/BenchContext";
import { useMe } from "../work/useMe";
import { Company } from "./Company";
import { HandbookButton } from "./handbook/Handbook";
import { Keys } from "./Keys";
import { Live } from "./live/Live";
import { Room } from "./room/Room";
import { ModulePicker } from "./ModulePicker";
import { States } from "./States";
import css from "./TopBar.module.css";

interface Props {
  /** Whether the handbook is open beside the work. */
  reading: boolean;
  toggleReading: () => void;
}

export function TopBar({ reading, toggleReading }: Props) {
  const { bench, change, undo, redo, canUndo, canRedo } = useBench();
  const { desk } = useMe();
  return (
    <header className={css.bar}>
      <Link to="/benches" className={css.mark} title="All benches">
        <Bell />
        <span>Slate Bell</span>
      </Link>
      <div className={css.name}>
        <InlineText
          label="Name of the bench"
          value={bench.name}
          placeholder="Unnamed bench"
          onChange={(name) => change((b) => ({ ...b, name }))}
        />
      </div>
      <ModulePicker />
      <Status />
      <Company />
      {desk && <Live />}
      {desk && <Room />}
      <States />
      <HandbookButton open={reading} toggle={toggleReading} />
      <Keys />
      <ThemeChoice />
      <Buttons undo={undo} redo={redo} canUndo={canUndo} canRedo={canRedo} />
    </header>
  );
}

/** Whether the bench is stored. */
function Status() {
  const { save, revision } = useSavingState();
  const said = {
    saved: `Saved, revision ${revision}`,
    saving: "Saving…",
    failed: save.kind === "failed" ? `Not saved: ${save.why}` : "",
    conflict: "Not saved: changed elsewhere too",
  }[save.kind];
  return (
    <span className={css.status} data-state={save.kind} role="status" title={said}>
      {said}
    </span>
  );
}

type ButtonsProps = Pick<BenchWork, "undo" | "redo" | "canUndo" | "canRedo">;

const Buttons = memo(function Buttons({ undo, redo, canUndo, canRedo }: ButtonsProps) {
  return (
    <>
      <IconButton title="Undo (Ctrl+Z)" aria-label="Undo" disabled={!canUndo} onClick={undo} color="inherit">
        <Icon name="undo" />
      </IconButton>
      <IconButton title="Redo (Ctrl+Shift+Z)" aria-label="Redo" disabled={!canRedo} onClick={redo} color="inherit">
        <Icon name="redo" />
      </IconButton>
    </>
  );
});
