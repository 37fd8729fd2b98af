import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { stateQuery, statesQuery } from "../api/queries";
import { ScreenPicture } from "../parts/glass/ScreenPicture";
import { moment } from "../ui/numbers";
import { useBench, useSavingState } from "../work/BenchContext";
import { reason } from "../work/reason";
import { setupOf } from "../work/setup";
import { Bare } from "../ui/Bare";
import css from "./States.module.css";

/** The states that are kept, the newest first: a click looks at one, another takes the bench back to it. */
export default function StatesSheet({ onDone }: { onDone: () => void }) {
  const { id } = useBench();
  const { revision } = useSavingState();
  const { data: states, error } = useQuery(statesQuery(id, revision));
  const [looked, look] = useState<number>();
  return (
    <>
      <h2>Earlier states</h2>
      {error && <p role="alert">{reason(error)}</p>}
      {!states && !error && <p>Looking them up…</p>}
      {states?.length === 1 && <p>None yet: every change from now on is kept here for an hour.</p>}
      {states && states.length > 1 && (
        <div className={css.both}>
          <ol className={css.list} aria-label="States">
            {states.map((s) => (
              <li key={s.revision}>
                <Bare aria-current={s.revision === looked || undefined} onClick={() => look(s.revision)}>
                  <span>{s.what || "nothing that shows"}</span>
                  <small>
                    {moment(s.at)}, revision {s.revision}
                    {s.revision === revision && ": as it stands now"}
                  </small>
                </Bare>
              </li>
            ))}
          </ol>
          {looked === undefined ? (
            <p>
              Every change is kept for an hour, the last of each hour for a day, the last of each day for a month. Click
              one to look at it; nothing changes by that.
            </p>
          ) : (
            <Look key={looked} revision={looked} onDone={onDone} />
          )}
        </div>
      )}
    </>
  );
}

/** A state: its first screens as the simulated modules show them, and how it differs from now. */
function Look({ revision, onDone }: { revision: number; onDone: () => void }) {
  const { id, change } = useBench();
  const { data: state, error } = useQuery(stateQuery(id, revision));
  if (error) return <p role="alert">{reason(error)}</p>;
  if (!state) return <p>Reading it…</p>;
  const { bench, differs } = state;
  return (
    <section className={css.look} aria-label={`Revision ${revision}`}>
      <p>
        {differs.length === 0
          ? "The same as the bench is now."
          : `Differs from now in: ${differs.slice(0, 6).join(", ")}${differs.length > 6 ? ` and ${differs.length - 6} more` : ""}.`}
      </p>
      <Button
        variant="contained"
        disabled={differs.length === 0}
        onClick={() => {
          change(() => bench);
          onDone();
        }}
        title="This is a change like any other: undo takes it back"
      >
        Take the bench back to this
      </Button>
      <div className={css.glasses}>
        {bench.modules.slice(0, 4).map((m) => (
          <figure key={m.id}>
            <ScreenPicture
              setup={setupOf(bench, m, 0, undefined)}
              tint={m.display.tint}
              name={`${m.name}, as it was`}
              width={190}
              most={2}
              className={css.glass}
            />
            <figcaption>
              {m.name}
              {m.screens.length > 1 && `, ${m.screens.length} screens`}
            </figcaption>
          </figure>
        ))}
      </div>
    </section>
  );
}
