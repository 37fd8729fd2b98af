import Button from "@mui/material/Button";
import { lazy, memo, Suspense, useState } from "react";
import { useRealTable } from "../../work/useRealTable";
import css from "./Live.module.css";

const LiveSheet = lazy(() => import("./LiveSheet"));

/** The real table: whether a board is connected, and what connects one. */
export const Live = memo(function Live() {
  const [open, setOpen] = useState(false);
  const { table } = useRealTable();
  const phase = table?.connected ? table.phase : undefined;
  const said = {
    opening: "the board is looked for",
    here: "the real modules follow",
    other: "the bridge was made for other wiring",
    gone: "the board is gone",
    foreign: "something else talks at this port",
    ended: "",
  }[phase ?? "ended"];
  return (
    <>
      <Button
        size="small"
        color="inherit"
        popoverTarget="live"
        title={said ? `Live: ${said}` : "Drive the real modules"}
      >
        <span className={css.dot} data-phase={phase} aria-hidden="true" />
        Live{said && <span className="unseen">: {said}</span>}
      </Button>
      <div
        id="live"
        popover="auto"
        className={css.sheet}
        role="dialog"
        aria-label="The real table"
        onToggle={(e) => setOpen(e.newState === "open")}
      >
        <Suspense>{open && <LiveSheet />}</Suspense>
      </div>
    </>
  );
});
