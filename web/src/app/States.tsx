import IconButton from "@mui/material/IconButton";
import { lazy, memo, Suspense, useState } from "react";
import { Icon } from "../ui/Icon";
import css from "./States.module.css";

const StatesSheet = lazy(() => import("./StatesSheet"));

/** How the bench stood before; the list is read once it is asked for. */
export const States = memo(function States() {
  const [open, setOpen] = useState(false);
  return (
    <>
      <IconButton color="inherit" title="Earlier states" aria-label="Earlier states" popoverTarget="states">
        <Icon name="earlier" />
      </IconButton>
      <div
        id="states"
        popover="auto"
        className={css.sheet}
        role="dialog"
        aria-label="Earlier states of the bench"
        onToggle={(e) => setOpen(e.newState === "open")}
      >
        <Suspense>{open && <StatesSheet onDone={() => document.getElementById("states")?.hidePopover()} />}</Suspense>
      </div>
    </>
  );
});
