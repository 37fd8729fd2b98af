import Button from "@mui/material/Button";
import { lazy, Suspense } from "react";

const Beside = lazy(() => import("./Beside"));

/** Opens the handbook, and closes it. */
export function HandbookButton({ open, toggle }: { open: boolean; toggle: () => void }) {
  return (
    <Button
      size="small"
      color="inherit"
      aria-pressed={open}
      title="The handbook at this view’s page (F1)"
      onClick={toggle}
    >
      Handbook
    </Button>
  );
}

/** The handbook beside the work, where it is open. */
export function Handbook({ view, open, close }: { view: string; open: boolean; close: () => void }) {
  return <Suspense>{open && <Beside view={view} close={close} />}</Suspense>;
}
