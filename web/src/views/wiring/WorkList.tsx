import { memo, useMemo } from "react";
import type { Work, WiringResult } from "../../api/client";
import { Bare } from "../../ui/Bare";
import { Quiet } from "../../ui/Quiet";
import type { Picked } from "./Drawing";
import type { TableEdit } from "../../work/useTableEdit";
import { Tick } from "../../ui/Tick";
import css from "./WorkList.module.css";

const titles: Record<Work["section"], string> = {
  solder: "First the iron",
  place: "Then the parts",
  wire: "Then the wires",
  check: "Before power",
  power: "The supply last",
};

interface Props {
  result: WiringResult;
  edit: TableEdit;
  picked: Picked;
  onPick: (p: Picked) => void;
}

/** What there is to do, one thing at a time, in the order of the work; each is ticked off and stays so. */
export const WorkList = memo(function WorkList({ result, edit, picked, onPick }: Props) {
  const { work, wires } = result;
  const done = work.filter((w) => w.done).length;
  const next = work.find((w) => !w.done);
  const sections = [...new Set(work.map((w) => w.section))];
  const acts = useMemo<Acts>(() => ({ tick: edit.tick, show: (wire) => onPick({ wire }) }), [edit, onPick]);
  return (
    <section className={css.list} aria-label="Order of the work">
      <div className={css.progress}>
        <progress value={done} max={work.length} aria-label="Done" />
        <span>
          {done} of {work.length} done
        </span>
      </div>
      {next && (
        <div className={css.next} aria-live="polite">
          <p className={css.now}>{titles[next.section]}</p>
          <p className={css.says}>{next.says}</p>
          {next.caution && <p className={css.caution}>{next.caution}</p>}
          <div className={css.acts}>
            <Bare className={css.tick} onClick={() => edit.tick(next.id, true)}>
              Done, next
            </Bare>
            {next.wire !== undefined && (
              <Quiet onClick={() => onPick({ wire: next.wire ?? 0 })}>Show wire {next.wire}</Quiet>
            )}
          </div>
        </div>
      )}
      {!next && work.length > 0 && <p className={css.next}>All done. Go on to first light.</p>}
      {sections.map((s) => (
        <details key={s} open={work.some((w) => w.section === s && !w.done)}>
          <summary>
            <h3>{titles[s]}</h3>
            <small>
              {work.filter((w) => w.section === s && w.done).length} of {work.filter((w) => w.section === s).length}
            </small>
          </summary>
          <ol>
            {work
              .filter((w) => w.section === s)
              .map((w) => (
                <Row
                  key={w.id}
                  work={w}
                  wire={wires.find((o) => o.number === w.wire)}
                  picked={picked !== undefined && "wire" in picked && picked.wire === w.wire}
                  acts={acts}
                />
              ))}
          </ol>
        </details>
      ))}
    </section>
  );
});

interface Acts {
  tick: (id: string, done: boolean) => void;
  show: (wire: number) => void;
}

interface RowProps {
  work: Work;
  wire: WiringResult["wires"][number] | undefined;
  picked: boolean;
  acts: Acts;
}

/** One thing to do. There are many, and few of them change at a time. */
const Row = memo(function Row({ work: w, wire, picked, acts }: RowProps) {
  return (
    <li data-done={w.done || undefined} data-picked={picked || undefined}>
      <label>
        <Tick checked={w.done ?? false} onChange={(e) => acts.tick(w.id, e.target.checked)} />
        {wire && <span className={css.colour} data-colour={wire.colour} aria-hidden="true" />}
        <span>{w.says}</span>
      </label>
      {wire && (
        <Quiet aria-label={`Show wire ${wire.number}`} onClick={() => acts.show(wire.number)}>
          {wire.number}
        </Quiet>
      )}
    </li>
  );
});
