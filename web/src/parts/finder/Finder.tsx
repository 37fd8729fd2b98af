import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { ApiError } from "../../api/client";
import { findQuery, logQuery, type FindResult } from "../../api/faults";
import { watchName } from "../../api/progress";

import { Working } from "../progress/Working";
import { useWiring } from "../../work/useWiring";
import { useBench } from "../../work/BenchContext";
import { reason } from "../../work/reason";
import { faultyOf } from "../../work/setup";
import { useNote } from "../../work/useLog";
import { useRun } from "../../work/useRun";
import { CauseCard } from "./CauseCard";
import { Causes } from "./Causes";
import { NextTest, type Missing } from "./NextTest";
import { Prior } from "./Prior";
import { SeenPanel } from "./SeenPanel";
import { asked, blank, inWords, keepSheet, keptSheet, untouched, type Sheet, type Taken } from "./sheet";
import { ToView } from "../ToView";
import { Trouble } from "../trouble/Trouble";
import { useRealTable } from "../../work/useRealTable";
import { isBare } from "../../work/typing/rows";
import css from "./Finder.module.css";

/** Where the browser keeps what is not at hand. */
const WITHOUT = "slatebell-without";

/** From what is seen to what is wrong. */
export function Finder() {
  const { id, bench, module, screen } = useBench();
  const note = useNote();
  const queries = useQueryClient();
  const key = `${id} ${module.id} ${screen.id}`;
  const [held, setHeld] = useState<{ key: string; sheet: Sheet }>();
  const [chosen, setChosen] = useState<string>();
  const [without, setWithout] = useState<Missing[]>(
    () => (localStorage.getItem(WITHOUT) ?? "").split(" ").filter(Boolean) as Missing[],
  );
  const { data: log } = useQuery(logQuery(id));
  const { data: wiring } = useWiring();
  const slim = useMemo(() => faultyOf(bench, module), [bench, module]);
  const of = { bench: slim, module: bench.modules.indexOf(module), screen: module.screens.indexOf(screen) };
  const { data: run } = useRun();
  const { cols, rows } = run?.glass ?? { cols: 16, rows: 2 };
  const count = cols * rows;
  const kept = held?.key === key ? held.sheet : keptSheet(queries, key);
  const sheet = kept?.cells.length === count ? kept : blank(count); // another geometry has other cells
  const bare = isBare(screen.rows);
  const set = (next: Sheet) => {
    keepSheet(queries, key, next);
    setHeld({ key, sheet: next });
  };
  const [watch] = useState(watchName);
  const { drives } = useRealTable();
  const { data, error, isPlaceholderData, isFetching, refetch } = useQuery({
    ...findQuery(
      {
        ...of,
        found: log?.counts,
        without,
        hosted: drives || undefined,
        ...asked(sheet, cols),
      },
      watch,
    ),
    enabled: !bare,
  });
  const [last, setLast] = useState<{ key: string; found: FindResult }>();
  const fresh = isPlaceholderData ? undefined : data;
  if (fresh && fresh !== last?.found) setLast({ key, found: fresh });
  const found = fresh ?? (last?.key === key ? last.found : undefined); // the answer before stands until the next, or where it is refused
  if (bare)
    return (
      <div className={css.hint}>
        <p>
          The screen has no text yet, so that nothing tells a fault from sound hardware: what the real glass makes of a
          text is what finds the fault.
        </p>
        <ToView view="screens">Type a text first</ToView>
      </div>
    );
  if (!found && error) return <Trouble trouble={error} stale={false} again={() => void refetch()} />;
  if (!found)
    return (
      <div className={css.finder}>
        <Working watch={watch} says="Simulating faults" />
      </div>
    );
  const cause = found.causes.find((c) => c.id === chosen) ?? found.causes[0];
  const taken = (t: Taken) => {
    set({ ...sheet, results: [...sheet.results.filter((r) => r.test !== t.test), t] });
    setChosen(undefined);
    void note({ kind: t.mV === undefined ? "tried" : "measured", text: `${t.title}: ${t.says}` }).catch(
      () => undefined,
    ); // the sheet keeps it too
  };
  return (
    <div className={css.finder}>
      <div className={css.column}>
        <SeenPanel
          of={of}
          found={found}
          sheet={sheet}
          tint={module.display.tint}
          refused={error instanceof ApiError ? reason(error) : undefined}
          vo={module.display.technology === "lcd"}
          bus={module.link.kind === "backpack"}
          onChange={set}
        />
      </div>
      <div className={css.column}>
        {isFetching && <Working watch={watch} says="Simulating faults" />}
        {untouched(sheet) ? (
          <p className={css.hint}>
            Nothing said yet: these are the faults that are met most. Say what you see, and the list becomes short.
          </p>
        ) : (
          <NextTest
            key={found.tests[0]?.id}
            of={of}
            found={found}
            tint={module.display.tint}
            without={without}
            onWithout={(list) => {
              localStorage.setItem(WITHOUT, list.join(" "));
              setWithout(list);
            }}
            onTaken={taken}
          />
        )}
        {found.doubt && (
          <p className={css.hint} role="status">
            {found.doubt}
          </p>
        )}
        <Causes found={found} tint={module.display.tint} chosen={cause?.id} onChoose={setChosen} />
        <Prior counts={log?.counts ?? {}} />
      </div>
      <div className={css.column}>
        {untouched(sheet) && chosen === undefined && <HowTo cases={found.cases} />}
        {cause && (!untouched(sheet) || chosen !== undefined) && (
          <CauseCard
            key={cause.id}
            found={found}
            cause={cause}
            wiring={wiring}
            seen={inWords(sheet, cols)}
            onMended={() => {
              set(blank(sheet.cells.length, sheet.begun + 1));
              setChosen(undefined);
            }}
          />
        )}
      </div>
    </div>
  );
}

/** What this view does, while nothing was said yet. */
function HowTo({ cases }: { cases: number }) {
  return (
    <section className={css.howto} aria-label="How it works">
      <h2>How a fault is found</h2>
      <ol>
        <li>
          <b>Say what you see.</b> Type the characters as they stand on the glass, row by row, or choose the picture
          that looks like it. {cases.toLocaleString("en")} cases were played into this very module; those that show the
          same are left.
        </li>
        <li>
          <b>Do the next best test.</b> It tells most about the causes that are left for the minutes it takes. Choose
          what you see then.
        </li>
        <li>
          <b>Mend it.</b> The cause is shown on your board, with the glass before and after. It goes into the log, and
          counts the next time.
        </li>
      </ol>
    </section>
  );
}
