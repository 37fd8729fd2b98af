import Button from "@mui/material/Button";
import { useMemo, useState } from "react";
import { Findings } from "../../parts/findings/Findings";
import { useRested } from "../../ui/useRested";
import { useBench } from "../../work/BenchContext";
import { loadingOf } from "../../work/setup";
import { Trouble } from "../../parts/trouble/Trouble";
import { Term } from "../../ui/Term";
import { Progress } from "../../parts/progress/Progress";
import { ChangeTable, type Pointed } from "./ChangeTable";
import { ms, rate } from "./rates";
import { useMatrix } from "./useMatrix";
import css from "./MatrixPanel.module.css";

/** With so many screens it takes long enough to say how far it is. */
const LONG = 40;

interface Props {
  onChoose: () => void;
}

/** Every screen to every other, by the cheapest update; and every field. */
export default function MatrixPanel(props: Props) {
  return <OfModule key={useBench().module.id} {...props} />;
}

function OfModule({ onChoose }: Props) {
  const { bench, module, screen, selectScreen } = useBench();
  const { screens } = module;
  const asked = useRested(bench, module.id);
  const body = useMemo(() => {
    const at = asked.modules.findIndex((m) => m.id === module.id);
    const of = asked.modules[at];
    return { bench: of ? loadingOf(asked, of) : asked, at };
  }, [asked, module.id]);
  const { matrix, stop, again } = useMatrix(body.bench, body.at);
  const [pointed, setPointed] = useState<Pointed>();
  const { judged, done, of, busy, trouble } = matrix;
  const some = matrix.rows.size > 0 || judged !== undefined;
  const troubled = <Trouble trouble={trouble} stale={some} again={again} />;
  if (!some && trouble) return troubled;
  if (!some && busy) return <p className={css.wait}>Simulating…</p>;
  const here = pointed && matrix.rows.get(pointed.from)?.get(pointed.to);
  const title = (i: number) => screens[i]?.name || `screen ${i + 1}`;
  return (
    <section className={css.panel} aria-label="All changes">
      {troubled}
      {busy && of >= LONG && (
        <Progress doing="Working changes out" done={done} of={of}>
          <Button variant="outlined" onClick={stop}>
            Stop here
          </Button>
        </Progress>
      )}
      {!busy && !trouble && done < of && (
        <div className={css.stopped} role="status">
          <span>
            Stopped after {done} of {of} screens: the others are not worked out.
          </span>
          <Button variant="outlined" onClick={again}>
            Work all out
          </Button>
        </div>
      )}
      {screens.length < 2 ? (
        <p className={css.none}>The module has one screen: there is nothing to change into. Its fields are below.</p>
      ) : (
        <>
          <p className="lead">
            From the screen on the left to the one above, by the cheapest <Term of="transition">update</Term>, in
            milliseconds until the controller is free again. A red number counts the cells that keep old characters
            where nothing clears them.
          </p>
          <ChangeTable
            matrix={matrix}
            screens={screens}
            title={title}
            here={screens.indexOf(screen)}
            pointed={pointed}
            point={setPointed}
            choose={({ to }) => {
              const chosen = screens[to];
              if (chosen) selectScreen(chosen.id);
              onChoose();
            }}
          />
          <p className={css.said} role="status">
            {pointed && here
              ? `${title(pointed.from)} to ${title(pointed.to)}: ${here.cost.operations} operations, ${here.cost.words} ${module.link.kind.startsWith("parallel") ? "pulses of E" : "bytes on the wire"}, ${ms(here.cost.doneUs)} ms; at most ${rate(here.perSecond)} a second.`
              : "Point at a change, by arrow keys too, to see its bytes and how often a second it can be made; choose it to see its steps."}
          </p>
        </>
      )}
      {judged && judged.fields.length > 0 && (
        <>
          <h2>
            <Term of="field">Fields</Term>
          </h2>
          <table className={css.fields}>
            <thead>
              <tr>
                <th scope="col">Field</th>
                <th scope="col">On</th>
                <th scope="col">Update of every cell</th>
                <th scope="col">Highest rate</th>
                <th scope="col">Wanted</th>
              </tr>
            </thead>
            <tbody>
              {judged.fields.map((f) => (
                <tr key={`${f.screen} ${f.field}`}>
                  <th scope="row">{f.name}</th>
                  <td>{title(f.screen)}</td>
                  <td>
                    {f.cost.words} {module.link.kind.startsWith("parallel") ? "pulses" : "bytes"}, {ms(f.cost.doneUs)}{" "}
                    ms
                  </td>
                  <td>{f.perSecond > 0 ? `${rate(f.perSecond)} a second` : "not written"}</td>
                  <td data-over={f.wanted > f.perSecond || undefined}>{f.wanted > 0 ? `${f.wanted} a second` : ""}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
      {judged && (
        <Findings
          about="changes"
          findings={judged.findings}
          none="None: nothing old is left on the glass, and no field is written more often than the link can."
        />
      )}
    </section>
  );
}
