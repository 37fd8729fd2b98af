import Button from "@mui/material/Button";
import { lazy, memo, Suspense, useState } from "react";
import { useMe } from "../../work/useMe";
import css from "./Room.module.css";

const RoomSheet = lazy(() => import("./RoomSheet"));

/** The room: whether other devices may come in, and who is here. */
export const Room = memo(function Room() {
  const [open, setOpen] = useState(false);
  const { room } = useMe();
  return (
    <>
      <Button
        size="small"
        color="inherit"
        popoverTarget="room"
        title={room ? "Room: open to devices that are let in" : "Let a telephone or tablet in"}
      >
        <span className={css.dot} data-open={room || undefined} aria-hidden="true" />
        Room{room && <span className="unseen">: open</span>}
      </Button>
      <div
        id="room"
        popover="auto"
        className={css.sheet}
        role="dialog"
        aria-label="The room"
        onToggle={(e) => setOpen(e.newState === "open")}
      >
        <Suspense>{open && <RoomSheet />}</Suspense>
      </div>
    </>
  );
});
