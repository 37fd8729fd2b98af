import Button from "@mui/material/Button";
import { lazy, memo, Suspense, useState } from "react";
import css from "./Keys.module.css";

const KeySheet = lazy(() => import("./KeySheet"));

/** What the keyboard does; it is read once it is asked for. */
export const Keys = memo(function Keys() {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button size="small" color="inherit" popoverTarget="keys">
        Keys
      </Button>
      <div id="keys" popover="auto" className={css.sheet} onToggle={(e) => setOpen(e.newState === "open")}>
        <Suspense>{open && <KeySheet />}</Suspense>
      </div>
    </>
  );
});
