import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { conditionQuery, type Condition, type Looked } from "../../api/program";
import { Copy } from "../../ui/Copy";
import { moment, size } from "../../ui/numbers";
import { Page } from "../../ui/Page";
import { reason } from "../../work/reason";
import { ReportCard } from "./ReportCard";
import css from "./ProgramView.module.css";

/** What is looked at, in words. */
const names: Record<Looked["name"], string> = {
  directory: "Directory",
  database: "Database",
  copies: "Copies",
  disk: "Room on the disk",
  log: "Log file",
  address: "Address",
  serial: "Serial ports",
  compile: "Compiler",
  upload: "Upload",
  browser: "Browser",
};

const states: Record<Looked["state"], string> = { ok: "in order", note: "to know", wrong: "wrong" };

/** The program itself: what it stands on, the copies that it keeps, and a report for somebody who helps. */
export default function ProgramView() {
  const { data, error, failureReason, isFetching, refetch } = useQuery(conditionQuery);
  const why = error ?? failureReason;
  return (
    <Page
      manual="program"
      heading="This program"
      home="/benches"
      aside={
        <Button disabled={isFetching} onClick={() => void refetch()}>
          {isFetching ? "Looking…" : "Look again"}
        </Button>
      }
    >
      <div className={css.main}>
        {!data && <p role={why ? "alert" : undefined}>{why ? reason(why) : "Looking everything over…"}</p>}
        {data && (
          <>
            <Checks condition={data} />
            <div className={css.column}>
              <Which condition={data} />
              <Copies condition={data} />
              <ReportCard />
            </div>
          </>
        )}
      </div>
    </Page>
  );
}

function Which({ condition: { program, data } }: { condition: Condition }) {
  return (
    <section aria-label="Which program" className={css.card}>
      <h2>Which program</h2>
      <dl className={css.facts}>
        <dt>Version</dt>
        <dd>
          <Copy
            text={[program.version, program.commit, program.date].filter(Boolean).join(", ")}
            what="version and commit"
          >
            {program.version}
          </Copy>
        </dd>
        {program.date && (
          <>
            <dt>Of</dt>
            <dd>{program.date}</dd>
          </>
        )}
        <dt>For</dt>
        <dd>{program.system}</dd>
        <dt>All benches in</dt>
        <dd>
          <Copy text={data} what="the name of the directory">
            {data}
          </Copy>
        </dd>
      </dl>
      <p>Nothing of it needs a network. To take it to another machine, take that directory along.</p>
      <p>
        <a href="/notices.txt">Notices of the parts inside</a>
      </p>
    </section>
  );
}

function Checks({ condition }: { condition: Condition }) {
  const wrong = condition.checks.filter((c) => c.state === "wrong").length;
  return (
    <section aria-label="What the program stands on" className={css.card}>
      <h2>
        {wrong === 0
          ? "All that it stands on is in order"
          : wrong === 1
            ? "One thing is wrong"
            : `${wrong} things are wrong`}
      </h2>
      <dl className={css.checks}>
        {condition.checks.map((c) => (
          <div key={c.name} data-state={c.state} data-check={c.name}>
            <dt>
              {names[c.name]}
              <span className={css.state}>{states[c.state]}</span>
            </dt>
            <dd>
              {c.says}
              {c.todo && <p className={css.todo}>{c.todo}</p>}
            </dd>
          </div>
        ))}
      </dl>
    </section>
  );
}

function Copies({ condition: { copies, data } }: { condition: Condition }) {
  const quoted = (name: string) => (/[^\w./:\\-]/.test(name) ? `"${name}"` : name);
  return (
    <section aria-label="Copies of the database" className={css.card}>
      <h2>Copies</h2>
      <p>
        A copy of everything is made on each day on which something was changed; the last seven are kept. To go back to
        one, stop the program, and give the command that the copy has beside it.
      </p>
      {copies.length === 0 && <p>There is none yet.</p>}
      {copies.length > 0 && (
        <table className={css.copies}>
          <caption className="unseen">Copies, the latest first</caption>
          <tbody>
            {copies.map((c) => (
              <tr key={c.path}>
                <th scope="row">{moment(c.at)}</th>
                <td>{c.why}</td>
                <td className={css.number}>{size(c.bytes)}</td>
                <td>
                  <Copy
                    text={`slatebell restore ${quoted(c.path)} --data ${quoted(data)}`}
                    what="the command that goes back to it"
                  >
                    Copy the way back
                  </Copy>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}
