import Button from "@mui/material/Button";
import { useState } from "react";
import { Link } from "react-router-dom";
import { changeDevice, makeCode, openRoom, removeDevice, type Role, type RoomState } from "../../api/room";
import { Check } from "../../ui/Check";
import { Copy } from "../../ui/Copy";
import { List } from "../../ui/List";
import { moment } from "../../ui/numbers";
import { useBench } from "../../work/BenchContext";
import { Opening } from "./Opening";
import { useRoom } from "./useRoom";
import { QR } from "./QR";
import { useSeconds } from "./useSeconds";
import css from "./Room.module.css";

type Make = ReturnType<typeof useRoom>["make"];

/** Opens the room, shows the code to come in by, and lists the devices that were let in. */
export default function RoomSheet() {
  const { id } = useBench();
  const { room, problem, make } = useRoom(true);
  if (!room) return <p>Looking round…</p>;
  return (
    <>
      <h2>Room</h2>
      {problem && <p role="alert">{problem}</p>}
      {room.open ? <Open room={room} make={make} /> : <Opening room={room} make={make} />}
      <Devices room={room} make={make} />
      <p>
        <Button component={Link} to={`/given/${id}`} variant="outlined" color="inherit">
          Give this bench out as copies…
        </Button>
      </p>
    </>
  );
}

function Open({ room, make }: { room: RoomState; make: Make }) {
  return (
    <section aria-label="How to come in" className={css.open}>
      {room.code && room.qr ? (
        <CodeCard code={room.code} qr={room.qr} />
      ) : (
        <p>
          A device comes in by a code that is good once, for two minutes.{" "}
          <strong>Open the camera of the telephone</strong> and point it at the picture that comes up.
        </p>
      )}
      <div className={css.acts}>
        <Button variant={room.code ? "outlined" : "contained"} onClick={() => make(makeCode)}>
          {room.code ? "Another code" : "Show a code"}
        </Button>
        <Button variant="outlined" color="inherit" onClick={() => make(() => openRoom({ open: false }))}>
          Close the room
        </Button>
      </div>
      <Check
        checked={room.kept}
        onChange={(e) => make(() => openRoom({ open: true, address: addressOf(room), keep: e.target.checked }))}
      >
        Open it at the next start too
      </Check>
      <p>
        Without a camera: open{" "}
        <Copy text={room.url ?? ""} what="the address">
          {room.url}
        </Copy>{" "}
        there and type the code.
      </p>
      {room.warning && <p className={css.warning}>{room.warning}</p>}
    </section>
  );
}

const addressOf = (room: RoomState) => new URL(room.url ?? "").host;

function CodeCard({ code, qr }: { code: NonNullable<RoomState["code"]>; qr: string[] }) {
  const left = useSeconds(code.until);
  return (
    <div className={css.code}>
      <QR rows={qr} label={`Code ${code.text} with the address, to be scanned`} />
      <div>
        <p className={css.text} aria-label={`Code ${[...code.text].join(" ")}`}>
          {code.text.slice(0, 4)} {code.text.slice(4)}
        </p>
        <p>{left > 0 ? `Good for ${left} s more, once.` : "It has ended."}</p>
        {code.tries < 5 && <p>{5 - code.tries} wrong so far; it ends with the fifth.</p>}
      </div>
    </div>
  );
}

const roles: Record<Role, string> = { watches: "Watches", "takes part": "Takes part" };

function Devices({ room, make }: { room: RoomState; make: Make }) {
  const [sure, setSure] = useState<number>();
  if (room.devices.length === 0) return <p>No device was let in so far.</p>;
  return (
    <table className={css.devices}>
      <caption>Devices that were let in</caption>
      <tbody>
        {room.devices.map((d) => (
          <tr key={d.id}>
            <th scope="row">{d.name}</th>
            <td>{d.here ? <strong>here now</strong> : `seen ${moment(d.seen)}`}</td>
            <td>
              <List
                aria-label={`What ${d.name} may do`}
                value={d.role}
                onChange={(e) => make(() => changeDevice(d.id, e.target.value as Role))}
              >
                {Object.entries(roles).map(([role, text]) => (
                  <option key={role} value={role}>
                    {text}
                  </option>
                ))}
              </List>
            </td>
            <td>
              {sure === d.id ? (
                <Button color="error" variant="contained" onClick={() => make(() => removeDevice(d.id))}>
                  End it now
                </Button>
              ) : (
                <Button
                  color="inherit"
                  variant="outlined"
                  aria-label={`Remove ${d.name}`}
                  onClick={() => setSure(d.id)}
                >
                  Remove
                </Button>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
