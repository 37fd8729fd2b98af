import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { matrixQuery } from "../../api/screens";
import { Findings } from "../../parts/findings/Findings";
import { useRested } from "../../ui/useRested";
import { useBench } from "../../work/BenchContext";
import { loadingOf } from "../../work/setup";
import { Trouble } from "../../parts/trouble/Trouble";
import { useSteady } from "../../work/useSteady";
import { Term } from "../../ui/Term";
import { Bare } from "../../ui/Bare";
import css from "./MatrixPanel.module.css";

/** Every screen to every other, by the cheapest update; and every field. */
export default function MatrixPanel({ onChoose }: { onChoose: () => void }) {
  const { bench, module, screen, selectScreen } = useBench();
  const { screens } = module;
  const asked = useRested(bench, module.id);
  const body = useMemo(() => {
    const of = asked.modules.find((m) => m.id === module.id) ?? module;
    return { bench: loadingOf(asked, of), at: asked.modules.indexOf(of) };
  }, [asked, module]);
  const { data, trouble, again } = useSteady(useQuery(matrixQuery(body.bench, Math.max(body.at, 0))));
  const [pointed, setPointed] = useState<{ from: number; to: number }>();
  const troubled = <Trouble trouble={trouble} stale={data !== undefined} again={again} />;
  if (!data && trouble) return troubled;
  if (!data) return <p className={css.wait}>Simulating…</p>;
  const dearest = Math.max(...data.changes.map((c) => c.cost.doneUs), 1);
  const change = (from: number, to: number) => data.changes.find((c) => c.from === from && c.to === to);
  const here = pointed && change(pointed.from, pointed.to);
  const title = (i: number) => screens[i]?.name || `screen ${i + 1}`;
  return (
    <section className={css.panel} aria-label="All changes">
      {troubled}
      {screens.length < 2 ? (
        <p className={css.none}>The module has one screen: there is nothing to change into. Its fields are below.</p>
      ) : (
        <>
          <p className="lead">
            From the screen on the left to the one above, by the cheapest <Term of="transition">update</Term>, in
            milliseconds until the controller is free again. A red number counts the cells that keep old characters
            where nothing clears them.
          </p>
          <div className={css.scroll}>
            <table className={css.matrix}>
              <thead>
                <tr>
                  <th scope="col">
                    <span className="unseen">From</span>
                  </th>
                  {screens.map((s, to) => (
                    <th key={s.id} scope="col" data-here={s.id === screen.id || undefined}>
                      {title(to)}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody onPointerLeave={() => setPointed(undefined)}>
                {screens.map((s, from) => (
                  <tr key={s.id}>
                    <th scope="row" data-here={s.id === screen.id || undefined}>
                      {title(from)}
                    </th>
                    {screens.map((t, to) => {
                      const c = change(from, to);
                      return (
                        <td key={t.id}>
                          {c && (
                            <Bare
                              style={{ "--share": c.cost.doneUs / dearest } as React.CSSProperties}
                              data-change={`${from} ${to}`}
                              onPointerEnter={() => setPointed({ from, to })}
                              onFocus={() => setPointed({ from, to })}
                              onClick={() => {
                                selectScreen(t.id);
                                onChoose();
                              }}
                            >
                              <span className="unseen">
                                From {title(from)} to {title(to)}:{" "}
                              </span>
                              {ms(c.cost.doneUs)}
                              <span className="unseen"> ms</span>
                              {c.left > 0 && (
                                <sup>
                                  {c.left}
                                  <span className="unseen"> cells left over</span>
                                </sup>
                              )}
                            </Bare>
                          )}
                        </td>
                      );
                    })}
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          <p className={css.said} role="status">
            {here
              ? `${title(here.from)} to ${title(here.to)}: ${here.cost.operations} operations, ${here.cost.words} ${module.link.kind.startsWith("parallel") ? "pulses of E" : "bytes on the wire"}, ${ms(here.cost.doneUs)} ms; at most ${rate(here.perSecond)} a second.`
              : "Point at a change to see its bytes and how often a second it can be made; click it to see its steps."}
          </p>
        </>
      )}
      {data.fields.length > 0 && (
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
              {data.fields.map((f) => (
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
      <Findings
        about="changes"
        findings={data.findings}
        none="None: nothing old is left on the glass, and no field is written more often than the link can."
      />
    </section>
  );
}

const ms = (us: number): string => (us / 1000).toFixed(us < 100_000 ? 1 : 0);

const rate = (perSecond: number): string => (perSecond >= 10 ? String(Math.floor(perSecond)) : perSecond.toFixed(1));
