import Button from "@mui/material/Button";
import { useState } from "react";
import { disconnect, takeOver, type RealTable } from "../../api/realTable";
import { Quiet } from "../../ui/Quiet";
import { reason } from "../../work/reason";
import { useRealTable } from "../../work/useRealTable";
import { Ports } from "./Ports";
import { RealModules } from "./RealModules";
import css from "./Live.module.css";

/** Connects a board, and says how things stand with it. */
export default function LiveSheet() {
  const { table, by, told, drives } = useRealTable();
  const [refused, setRefused] = useState<string>();
  const act = (what: Promise<RealTable>) =>
    void what.then(
      (now) => {
        told(now);
        setRefused(undefined);
      },
      (e: unknown) => setRefused(reason(e)),
    );
  return (
    <>
      <h2>The real table</h2>
      {refused && <p role="alert">{refused}</p>}
      {table?.connected ? (
        <>
          <Standing table={table} />
          {!drives && (
            <p className={css.note}>
              Another page drives it; this one watches.{" "}
              <Quiet onClick={() => act(takeOver(by))}>Drive it from here</Quiet>
            </p>
          )}
          <RealModules table={table} />
          <Button variant="outlined" onClick={() => act(disconnect())}>
            Disconnect
          </Button>
        </>
      ) : (
        <Ports onConnect={act} by={by} />
      )}
    </>
  );
}

/** How things stand with the line. */
function Standing({ table }: { table: RealTable }) {
  const says = {
    opening: "The port is open, and the board is looked for: one that was reset takes a second or two.",
    here: `The bridge of an ${table.part ?? "unknown host"} is there. What you edit shows on the real glass.`,
    other: table.why ?? "",
    gone: `${table.why ?? "The port is gone"}. It is tried again.`,
    foreign: table.why ?? "",
    ended: "",
  }[table.phase ?? "ended"];
  return (
    <>
      <p role="status" className={css.standing} data-phase={table.phase}>
        <b>{table.standIn ? "The stand-in" : table.port}</b> {says}
      </p>
      {table.phase === "other" && <p className={css.note}>Code has the bridge, under “To try first”.</p>}
      <dl className={css.figures}>
        <div>
          <dt>Sent</dt>
          <dd>
            {table.words} records, {table.bytes} bytes
          </dd>
        </div>
        <div>
          <dt>Errors</dt>
          <dd>{table.errors}</dd>
        </div>
        <div>
          <dt>To the last byte</dt>
          <dd>
            {table.lastMs.toFixed(1)} ms; 95 of 100 within {table.slowMs.toFixed(1)} ms
          </dd>
        </div>
      </dl>
    </>
  );
}
