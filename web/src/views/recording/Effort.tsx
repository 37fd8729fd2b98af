import type { Reading } from "../../api/recordings";
import { time } from "../../ui/numbers";
import css from "./Effort.module.css";

/** What the recorded program took, beside the cheapest for the same screens; what of it was needless; and which modules keep up. */
export function Effort({ reading: r }: { reading: Reading }) {
  const rows: [string, string, string][] = [
    ["Operations", r.recorded.operations.toLocaleString("en"), r.cheapest.operations.toLocaleString("en")],
    ["Bytes on the wire", r.recorded.bytes.toLocaleString("en"), r.cheapest.bytes.toLocaleString("en")],
    ["Time", r.recorded.us > 0 ? time(r.recorded.us) : "not recorded", time(r.cheapest.us)],
    [
      "Such screens a second",
      r.recorded.perSecond > 0 ? r.recorded.perSecond.toFixed(1) : "–",
      r.cheapest.perSecond.toFixed(1),
    ],
  ];
  const n = r.needless;
  const needless: [number, string][] = [
    [n.rewritten, "characters written onto the same"],
    [n.cleared, "characters cleared away that came back"],
    [n.addressed, "addresses set where the counter stood"],
    [n.set, "settings that were so already"],
  ];
  return (
    <section className={css.effort} aria-label="What a better program takes">
      <table>
        <caption>
          {r.screens === 1 ? "The screen" : `The ${r.screens.toLocaleString("en")} screens`} that stood, on the same
          link
        </caption>
        <thead>
          <tr>
            <td />
            <th scope="col">recorded</th>
            <th scope="col">cheapest</th>
          </tr>
        </thead>
        <tbody>
          {rows.map(([name, a, b]) => (
            <tr key={name}>
              <th scope="row">{name}</th>
              <td>{a}</td>
              <td>{b}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <h3>Needless</h3>
      <ul>
        {needless
          .filter(([count]) => count > 0)
          .map(([count, what]) => (
            <li key={what}>
              <b>{count.toLocaleString("en")}</b> {what}
            </li>
          ))}
        {n.waitsUs > 0 && (
          <li>
            <b>{time(n.waitsUs)}</b> of waits beyond what link and controller need
          </li>
        )}
        {n.waitsUs === 0 && needless.every(([count]) => count === 0) && <li>Nothing that could be seen.</li>}
      </ul>
      <h3>Modules that keep up</h3>
      <ul>
        {r.oscillators.map((o) => (
          <li key={o.name} data-lost={o.lost > 0 || undefined}>
            {o.name === "own" ? "This one" : o.name === "slowest" ? "The slowest" : "A typical one"}, {o.kHz} kHz:{" "}
            {o.lost === 0 ? "takes every byte" : `loses ${o.lost.toLocaleString("en")} bytes`}
          </li>
        ))}
      </ul>
    </section>
  );
}
