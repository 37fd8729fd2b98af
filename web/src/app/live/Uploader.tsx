import Button from "@mui/material/Button";
import LinearProgress from "@mui/material/LinearProgress";
import { useState } from "react";
import type { Bench } from "../../api/client";
import { upload, type Uploaded } from "../../api/realTable";
import { Choice } from "../../ui/Choice";
import { reason } from "../../work/reason";
import css from "./Live.module.css";

interface Props {
  port: string;
  bench: Bench;
  /** Speeds of loaders of such boards, the usual one first. */
  bauds: number[];
  onDone: () => void;
}

/** Builds the bridge and puts it onto the board at a port, in place of what is there. */
export function Uploader({ port, bench, bauds, onDone }: Props) {
  const [baud, setBaud] = useState(bauds[0] ?? 115200);
  const [busy, setBusy] = useState(false);
  const [got, setGot] = useState<Uploaded>();
  const [refused, setRefused] = useState<string>();
  const begin = () => {
    setBusy(true);
    setGot(undefined);
    setRefused(undefined);
    void upload({ port, baud: baud as 115200 | 57600, bench })
      .then(
        (u) => {
          setGot(u);
          if (u.done) onDone();
        },
        (e: unknown) => setRefused(reason(e)),
      )
      .finally(() => setBusy(false));
  };
  return (
    <div className={css.upload} role="group" aria-label={`The bridge for ${port}`}>
      <p>The bridge is built and uploaded in place of the program that is on the board now.</p>
      {bauds.length > 1 && (
        <Choice label="Its loader listens at" value={baud} onChange={(v) => setBaud(Number(v))}>
          {bauds.map((b) => (
            <option key={b} value={b}>
              {b.toLocaleString("en")} baud{b === bauds[0] ? "" : ": older small boards"}
            </option>
          ))}
        </Choice>
      )}
      <Button variant="contained" disabled={busy} onClick={begin}>
        {busy ? "Uploading…" : "Build and upload"}
      </Button>
      {busy && <LinearProgress aria-label="Building and uploading" />}
      <div role="status">
        {refused}
        {got && !got.done && (
          <>
            <p>It was not uploaded. Is this its port, is it free, and is the speed its loader’s?</p>
            <pre>{got.said}</pre>
          </>
        )}
      </div>
    </div>
  );
}
