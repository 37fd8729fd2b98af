import IconButton from "@mui/material/IconButton";
import { lazy, Suspense } from "react";
import { Icon } from "../../ui/Icon";

const Beside = lazy(() => import("./Beside"));

/** Opens the handbook, and closes it. */
export function HandbookButton({ open, toggle }: { open: boolean; toggle: () => void }) {
  return (
    <IconButton
      color="inherit"
      aria-label="Handbook"
      aria-pressed={open}
      title="The handbook at this view’s page (F1)"
      onClick={toggle}
    >
      <Icon name="book" />
    </IconButton>
  );
}

/** The handbook beside the work, where it is open. */
export function Handbook({ view, open, close }: { view: string; open: boolean; close: () => void }) {
  return <Suspense>{open && <Beside view={view} close={close} />}</Suspense>;
}
