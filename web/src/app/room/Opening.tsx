import Button from "@mui/material/Button";
import { useState } from "react";
import { openRoom, type RoomState } from "../../api/room";
import { Check } from "../../ui/Check";
import { Line } from "../../ui/Line";
import type { useRoom } from "./useRoom";
import css from "./Room.module.css";

/** The closed room, and what opens it. */
export function Opening({ room, make }: { room: RoomState; make: ReturnType<typeof useRoom>["make"] }) {
  const [address, setAddress] = useState(room.addresses[0] ?? "");
  const [keep, setKeep] = useState(false);
  return (
    <form
      className={css.open}
      onSubmit={(e) => {
        e.preventDefault();
        make(() => openRoom({ open: true, address, keep }));
      }}
    >
      <p>
        Nobody but this machine can connect now. Open the room to have the work list, first light and the glass on a
        telephone beside the board. Each device is let in here, by its name.
      </p>
      <Line
        label="Address of this machine, by which devices reach it"
        value={address}
        onChange={setAddress}
        mark="address"
      />
      {room.addresses.length > 1 && <p>Others of this machine: {room.addresses.slice(1).join(", ")}</p>}
      <Check checked={keep} onChange={(e) => setKeep(e.target.checked)}>
        Open it at the next start too
      </Check>
      {room.warning && <p className={css.warning}>{room.warning}</p>}
      <div className={css.acts}>
        <Button type="submit" variant="contained">
          Open the room
        </Button>
      </div>
    </form>
  );
}
