import Button from "@mui/material/Button";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router-dom";
import { client, unwrap } from "../../api/client";
import { collected, giveOut, givenQuery, type GivenCopy } from "../../api/given";
import { Icon } from "../../ui/Icon";
import { moment } from "../../ui/numbers";
import { Page } from "../../ui/Page";
import { TextBox } from "../../ui/TextBox";
import { reason } from "../../work/reason";
import { ContestDesk } from "./ContestDesk";
import css from "./GivenView.module.css";

/** A bench that is given out: a copy for each name, how far each is, and all of them collected. */
export default function GivenView() {
  const id = Number(useParams().bench);
  const { data: bench, error } = useQuery({
    queryKey: ["given out", id],
    queryFn: async () => unwrap(await client.GET("/api/benches/{id}", { params: { path: { id } } })),
    staleTime: 0,
  });
  const { data: copies } = useQuery(givenQuery(id));
  if (error) return <p role="alert">{reason(error)}</p>;
  return (
    <Page
      manual="given"
      heading={bench ? `${bench.bench.name}, given out` : "Given out"}
      called={`Given out · ${bench?.bench.name ?? ""}`}
      home="/benches"
      aside={
        <Button component={Link} to={`/benches/${id}`} color="inherit">
          Open the bench itself
        </Button>
      }
    >
      <div className={css.main}>
        <div className={css.column}>
          <GiveForm id={id} />
          {bench && <ContestDesk id={id} bench={bench.bench} copies={copies ?? []} />}
        </div>
        <section aria-label="Copies" className={css.copies}>
          {copies?.length === 0 && (
            <p className={css.none}>
              Nobody has a copy yet. Write a name a line; each gets this bench as it is now, to wire, fill and try by
              themselves, and you see here how far they are.
            </p>
          )}
          {copies && copies.length > 0 && <Copies id={id} copies={copies} />}
        </section>
      </div>
    </Page>
  );
}

function GiveForm({ id }: { id: number }) {
  const queries = useQueryClient();
  const [text, setText] = useState("");
  const [refused, setRefused] = useState("");
  const names = text.split("\n").filter((n) => n.trim() !== "");
  const give = async () => {
    try {
      queries.setQueryData(givenQuery(id).queryKey, await giveOut(id, names));
      setText("");
      setRefused("");
    } catch (e) {
      setRefused(reason(e)); // what was typed stays
    }
  };
  return (
    <section aria-label="Give it out" className={css.card}>
      <h2>Give it out</h2>
      <TextBox
        rows={6}
        aria-label="Names, one a line"
        placeholder={"A name a line, such as\nOtter crew\nHeron crew"}
        value={text}
        onChange={(e) => setText(e.target.value)}
      />
      {refused && <p role="alert">{refused}</p>}
      <Button variant="contained" disabled={names.length === 0} onClick={() => void give()}>
        {names.length > 1 ? `Give ${names.length} copies` : "Give a copy"}
      </Button>
    </section>
  );
}

function Copies({ id, copies }: { id: number; copies: GivenCopy[] }) {
  return (
    <>
      <table className={css.table}>
        <caption className="unseen">How far everybody is</caption>
        <thead>
          <tr>
            <th scope="col">Whose</th>
            <th scope="col">Work list</th>
            <th scope="col">Screens</th>
            <th scope="col">Findings open</th>
            <th scope="col">Practice</th>
            <th scope="col">Last change</th>
            <th scope="col">Here</th>
            <td />
          </tr>
        </thead>
        <tbody>
          {copies.map((c) => (
            <tr key={c.id} data-copy={c.to}>
              <th scope="row">{c.to}</th>
              <td>
                <progress value={c.done} max={Math.max(c.steps, 1)} aria-label={`Work list of ${c.to}`} /> {c.done} of{" "}
                {c.steps}
              </td>
              <td>{c.screens}</td>
              <td title={c.findings}>{c.open === 0 ? "none" : c.open}</td>
              <td>
                {c.rounds.length === 0
                  ? "none"
                  : `${c.rounds.filter((r) => r.right).length} of ${c.rounds.length} found`}
              </td>
              <td>{c.revision > 1 ? moment(c.updated) : "not begun"}</td>
              <td>{c.here.map((h) => h.who || "the desk").join(", ")}</td>
              <td>
                <Button variant="outlined" color="inherit" component={Link} to={`/benches/${c.id}`}>
                  Look<span className="unseen"> over the shoulder of {c.to}</span>
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <Button
        variant="outlined"
        href={collected(id)}
        download
        startIcon={<Icon name="down" size={17} />}
        className={css.collect}
      >
        Collect all as one archive
      </Button>
    </>
  );
}
