import Button from "@mui/material/Button";
import { answerDevice } from "../../api/room";
import { useMe } from "../../work/useMe";
import { useRoom } from "./useRoom";
import css from "./Room.module.css";

/** The devices that ask to come in: whatever the desk looks at, it is asked by their names. */
export function Knocks() {
  const { desk, room: open } = useMe();
  const { room, make } = useRoom(desk && open);
  if (!room?.asking.length) return null;
  return (
    <section className={css.knocks} role="alert">
      {room.asking.map(({ number, name, from }) => (
        <div key={number}>
          <p>
            <strong>“{name}”</strong> at {from} asks to come in.
          </p>
          <Button variant="contained" onClick={() => make(() => answerDevice(number, "takes part"))}>
            Let it take part
          </Button>
          <Button variant="outlined" onClick={() => make(() => answerDevice(number, "watches"))}>
            Let it watch
          </Button>
          <Button variant="outlined" color="inherit" onClick={() => make(() => answerDevice(number))}>
            Refuse
          </Button>
        </div>
      ))}
    </section>
  );
}
