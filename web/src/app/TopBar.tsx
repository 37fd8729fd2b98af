import IconButton from "@mui/material/IconButton";
import Tooltip from "@mui/material/Tooltip";
import { useColorScheme } from "@mui/material/styles";
import { Keys } from "./Keys";
import { memo } from "react";
import { useBench, useSavingState, type BenchWork } from "../bench/BenchContext";
import { Bell } from "../ui/Bell";
import { Icon } from "../ui/Icon";
import { InlineText } from "../ui/InlineText";
import css from "./TopBar.module.css";

export function TopBar() {
  const { bench, change, undo, redo, canUndo, canRedo } = useBench();
  return (
    <header className={css.bar}>
      <span className={css.mark}>
        <Bell />
        <span>Slate Bell</span>
      </span>
      <div className={css.name}>
        <InlineText
          label="Name of the bench"
          value={bench.name}
          placeholder="Unnamed bench"
          onChange={(name) => change((b) => ({ ...b, name }))}
        />
      </div>
      <Modules />
      <Status />
      <Keys />
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
    conflict: "Not saved: changed in another tab",
  }[save.kind];
  return (
    <span className={css.status} data-state={save.kind} role="status">
      {said}
    </span>
  );
}

/** The bench's modules, one of which is on the dock. */
function Modules() {
  const { bench, module, selectModule, addModule, removeModule } = useBench();
  return (
    <div className={css.modules} role="group" aria-label="Modules">
      {bench.modules.map((m) => (
        <button key={m.id} type="button" aria-pressed={m.id === module.id} onClick={() => selectModule(m.id)}>
          {m.name || "Unnamed module"}
        </button>
      ))}
      <button type="button" aria-label="Add a module" title="Add a module" onClick={addModule}>
        +
      </button>
      {bench.modules.length > 1 && (
        <button
          type="button"
          aria-label={`Remove ${module.name}`}
          title={`Remove ${module.name}`}
          onClick={removeModule}
        >
          −
        </button>
      )}
    </div>
  );
}

type ButtonsProps = Pick<BenchWork, "undo" | "redo" | "canUndo" | "canRedo">;

const Buttons = memo(function Buttons({ undo, redo, canUndo, canRedo }: ButtonsProps) {
  const { mode, setMode } = useColorScheme();
  const dark = mode !== "light";
  return (
    <>
      <Tooltip title="Undo (Ctrl+Z)">
        <span>
          <IconButton aria-label="Undo" disabled={!canUndo} onClick={undo} color="inherit">
            <Icon name="undo" />
          </IconButton>
        </span>
      </Tooltip>
      <Tooltip title="Redo (Ctrl+Shift+Z)">
        <span>
          <IconButton aria-label="Redo" disabled={!canRedo} onClick={redo} color="inherit">
            <Icon name="redo" />
          </IconButton>
        </span>
      </Tooltip>
      <Tooltip title={dark ? "Light theme" : "Dark theme"}>
        <IconButton
          aria-label={dark ? "Light theme" : "Dark theme"}
          onClick={() => setMode(dark ? "light" : "dark")}
          color="inherit"
        >
          <Icon name={dark ? "sun" : "moon"} />
        </IconButton>
      </Tooltip>
    </>
  );
});
