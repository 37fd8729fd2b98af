import { memo } from "react";
import type { Reading } from "../../api/recordings";
import { Bare } from "../../ui/Bare";
import { time } from "../../ui/numbers";
import { lasting, stamp } from "./time";
import css from "./Stood.module.css";

/** The screens that stood on the glass, one after the other, each with when it came and what that took. */
export const Stood = memo(function Stood({
  reading,
  at,
  look,
}: {
  reading: Reading;
  at: number;
  look: (ns: number) => void;
}) {
  const { stood } = reading;
  if (stood.length === 0) return null;
  const current = stood.findLastIndex((s) => s.fromNs <= at);
  return (
    <section className={css.stood} aria-label="Screens that stood on the glass">
      <h2>
        {reading.screens === 1 ? "The screen that stood" : `${reading.screens.toLocaleString("en")} screens that stood`}
        {reading.screens > stood.length && <small> the first {stood.length} are listed</small>}
      </h2>
      <ul>
        {stood.map((s, i) => (
          <li key={s.atNs}>
            <Bare
              data-current={i === current || undefined}
              title={`Recorded: ${s.recorded.bytes} bytes in ${time(s.recorded.us)}; by the cheapest program ${s.cheapest.bytes} bytes in ${time(s.cheapest.us)}`}
              onClick={() => look(s.atNs)}
            >
              <span className={css.head}>
                {stamp(s.atNs)} <small>took {lasting(s.recorded.us * 1000)}</small>
              </span>
              <span className={css.rows}>
                {s.rows.every((r) => r.trim() === "") ? (
                  <small>blank</small>
                ) : (
                  s.rows.map((r, k) => <span key={k}>{r.trimEnd() || " "}</span>)
                )}
              </span>
            </Bare>
          </li>
        ))}
      </ul>
    </section>
  );
});
