import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { chartQuery, chartScreensQuery, type Chart, type Shown } from "../../api/charts";
import type { Setup } from "../../api/client";
import { writeTool } from "../../api/code";
import { showThere } from "../../api/realTable";
import { Icon } from "../../ui/Icon";
import { keepAll } from "../../ui/keepAll";
import { Quiet } from "../../ui/Quiet";
import { useDrop } from "../../ui/useDrop";
import { useBench } from "../../work/BenchContext";
import { reason } from "../../work/reason";
import { wiringOf } from "../../work/setup";
import { useAttempt } from "../../work/useAttempt";
import { useRealTable } from "../../work/useRealTable";
import { LearnChart } from "./LearnChart";
import { useLearning, type Shot } from "./useLearning";
import css from "./LearnRom.module.css";

/** Learns the character ROM of the real module: its codes are shown on the glass, photographed, and put together to a chart. */
export function LearnRom({ onClose }: { onClose: () => void }) {
  const { bench, module } = useBench();
  const learning = useLearning();
  const { shots, seen, take } = learning;
  const at = bench.modules.findIndex((m) => m.id === module.id);
  const { data: screens } = useQuery(chartScreensQuery(wiringOf(bench), at));
  const shown = shots.flatMap((s) => s.shown ?? []);
  const { data: chart, error } = useQuery({
    ...chartQuery(module.display, module.name, shown, seen),
    enabled: shown.length > 0,
  });
  const { attempt, error: refused } = useAttempt();
  const file = useRef<HTMLInputElement>(null);
  const { over, drops } = useDrop((files) => void take([...files]));
  const [failed, setFailed] = useState<string>();
  const program = () =>
    void writeTool(bench, at, "chart-screens").then(
      ({ files }) => {
        keepAll("chart-screens.zip", files);
        setFailed(undefined);
      },
      (e: unknown) => setFailed(reason(e)),
    );
  const keep = async ({ chart }: Chart) => {
    const no = await attempt((m) => ({
      ...m,
      display: { ...m.display, controller: { ...m.display.controller, rom: "own", chart } },
    }));
    if (no) return;
    learning.forget();
    onClose();
  };
  return (
    <section className={css.learn} aria-label="Learn the ROM" data-over={over || undefined} {...drops}>
      <header>
        <h2>Learn its ROM</h2>
        <Quiet onClick={onClose}>Back to the charts</Quiet>
      </header>
      <div className={css.parts}>
        <div className={css.taken}>
          <p className="lead">
            {screens
              ? `All 256 codes stand on ${screens.screens.length} screens`
              : "All 256 codes stand on a few screens"}
            , with marks in the first and the last cell that say which it is. Let the host show them, photograph each
            with the whole glass in the picture, and drop the photographs here, in any order.
          </p>
          <div className={css.acts}>
            <Quiet title="For the host, in each form that it takes; each screen stays for 6 s" onClick={program}>
              <Icon name="down" size={16} /> Program that shows them
            </Quiet>
            <Button variant="outlined" onClick={() => file.current?.click()}>
              Photographs…
            </Button>
            <input
              ref={file}
              className="unseen"
              type="file"
              accept="image/jpeg,image/png"
              multiple
              tabIndex={-1}
              aria-label="Photographs of the screens"
              onChange={(e) => {
                void take([...(e.target.files ?? [])]);
                e.target.value = "";
              }}
            />
          </div>
          {failed && <p role="alert">{failed}</p>}
          {screens && <Screens setups={screens.screens} shown={shown} onFail={setFailed} />}
          {shots.length > 0 && <Shots shots={shots} onDrop={learning.drop} />}
          {error && <p role="alert">{reason(error)}</p>}
        </div>
        {chart && shown.length > 0 ? (
          <div className={css.taken}>
            <LearnChart chart={chart} onSee={learning.see} />
            <ul className={css.findings} aria-label="What the photographs say">
              {chart.findings.map((f) => (
                <li key={f.code} data-severity={f.severity}>
                  <b>{f.what}</b> {f.fix}
                </li>
              ))}
            </ul>
            <Button variant="contained" disabled={chart.missing.length > 0} onClick={() => void keep(chart)}>
              Keep it as this module’s ROM
            </Button>
            {refused && <p role="alert">{refused}</p>}
          </div>
        ) : (
          <p className={css.none}>The chart appears here, code by code, as its screens are photographed.</p>
        )}
      </div>
    </section>
  );
}

interface ScreensProps {
  setups: Setup[];
  shown: Shown[];
  onFail: (why: string | undefined) => void;
}

/** The screens, which of them are photographed; where the real modules are driven from here, each is shown at a click. */
function Screens({ setups, shown, onFail }: ScreensProps) {
  const { id, module, setupOf } = useBench();
  const { table, by, drives } = useRealTable();
  const [on, setOn] = useState<number>();
  const live = drives && table?.bench === id;
  const show = (setup: Setup, k: number | undefined) =>
    void showThere(by, setup).then(
      () => {
        setOn(k);
        onFail(undefined);
      },
      (e: unknown) => onFail(reason(e)),
    );
  const count = (k: number) => shown.filter((s) => s.screen === k).length;
  return (
    <div className={css.screens}>
      <ol aria-label="Screens of the chart">
        {setups.map((s, k) => (
          <li key={k} data-seen={count(k) > 0 || undefined}>
            {live ? (
              <Quiet aria-pressed={on === k} title="Show it on the real glass" onClick={() => show(s, k)}>
                {k + 1}
              </Quiet>
            ) : (
              <b>{k + 1}</b>
            )}
            <small>
              {count(k) === 0 ? "no photograph" : count(k) === 1 ? "1 photograph" : `${count(k)} photographs`}
            </small>
          </li>
        ))}
      </ol>
      {live && on !== undefined && (
        <Quiet onClick={() => show(setupOf(module), undefined)}>Show the composed screen again</Quiet>
      )}
    </div>
  );
}

/** The photographs, and which screen each is of. */
function Shots({ shots, onDrop }: { shots: Shot[]; onDrop: (id: string) => void }) {
  return (
    <ul className={css.shots} aria-label="Photographs">
      {shots.map((s) => (
        <li key={s.id} data-refused={s.refused !== undefined || undefined}>
          <b>{s.name}</b>
          <span role="status">{s.shown ? `screen ${s.shown.screen + 1}` : (s.refused ?? "is read…")}</span>
          <Quiet aria-label={`Leave ${s.name} out`} onClick={() => onDrop(s.id)}>
            <Icon name="close" size={14} />
          </Quiet>
        </li>
      ))}
    </ul>
  );
}
