import { useQuery } from "@tanstack/react-query";
import { Fragment } from "react";
import type { Way } from "../../api/client";
import { waysQuery } from "../../api/queries";
import { useBench } from "../../work/BenchContext";
import { time } from "../../ui/numbers";
import { Term } from "../../ui/Term";
import { Bare } from "../../ui/Bare";
import css from "./Ways.module.css";

const setups: [Way["setup"], string, string][] = [
  ["lawful", "RS first", "A byte of its own before E where RS changes; data comes with E"],
  ["before", "All first", "A byte of its own before every rise of E"],
  ["with-e", "With E", "RS and data change together with the rise of E"],
];

const groupings: [NonNullable<Way["transactions"]>, string, string][] = [
  ["screen", "long", "A transaction lasts as long as no pause is needed"],
  ["operation", "one an operation", "START, address and STOP around every instruction or character"],
  ["byte", "one a byte", "START, address and STOP around every byte: how plain programs do it"],
];

/** Every way of toggling E over the outputs, with its cost for this very screen and what it breaks. */
export function Ways({ onPick }: { onPick: (way: Way) => void }) {
  const { module, setup } = useBench();
  const { data: ways } = useQuery(waysQuery(setup));
  if (!ways?.length) return null;
  const find = (setup: string, transactions?: string) =>
    ways.find((w) => w.setup === setup && (transactions === undefined || w.transactions === transactions));
  const chosen = find(
    module.link.outputs.setup ?? "lawful",
    ways[0]?.transactions && (module.link.outputs.transactions ?? "screen"),
  );
  const plain = find("before", "byte");
  const broken = ways.find((w) => w.breaks.length > 0)?.breaks[0];
  const cell = (way: Way | undefined) =>
    way && (
      <Bare
        aria-pressed={way === chosen}
        data-broken={way.breaks.length > 0 || undefined}
        title={way.breaks.map((b) => b.what).join(" ") || `${way.starts} transactions; breaks no limit`}
        onClick={() => onPick(way)}
      >
        <b>{time(way.wireUs)}</b>
        <small>{way.wireWords} bytes</small>
        <small>{way.breaks.length > 0 ? "at risk" : way.best ? "fastest" : ""}</small>
      </Bare>
    );
  return (
    <section aria-label="Ways to toggle E" className={css.ways}>
      <h3>How E is toggled</h3>
      <div className={css.grid} data-single={!ways[0]?.transactions || undefined}>
        {ways[0]?.transactions && <span className={css.corner}>Transactions</span>}
        {setups.map(([setup, title, help]) => (
          <Term key={setup} means={help}>
            {title}
          </Term>
        ))}
        {ways[0]?.transactions
          ? groupings.map(([grouping, title, help]) => (
              <Fragment key={grouping}>
                <Term means={help}>{title}</Term>
                {setups.map(([setup]) => (
                  <Fragment key={setup}>{cell(find(setup, grouping))}</Fragment>
                ))}
              </Fragment>
            ))
          : setups.map(([setup]) => <Fragment key={setup}>{cell(find(setup))}</Fragment>)}
      </div>
      {chosen && plain && chosen !== plain && (
        <p className={css.beat}>
          {(plain.wireUs / chosen.wireUs).toFixed(1)} times as fast as the plain way, with{" "}
          {plain.wireWords - chosen.wireWords} bytes fewer.
        </p>
      )}
      {broken && (
        <p className={css.note}>
          <b>With E</b>: {broken.what} {broken.why}
        </p>
      )}
    </section>
  );
}
