import { useState, type ReactNode } from "react";
import type { Module } from "../../api/client";
import { linesThere, oscillatorThere, recall, type DataLines, type Oscillator, type Recall } from "../../api/realTable";
import { Quiet } from "../../ui/Quiet";
import { useBase } from "../../ui/places";
import { useBench } from "../../work/BenchContext";
import { reason } from "../../work/reason";
import { useNote } from "../../work/useLog";
import { useRealTable } from "../../work/useRealTable";
import css from "./Live.module.css";

/** What a module says of itself, where it can be read: its memory, its data lines, its oscillator. */
export function Tells({ at, module }: { at: number; module: Module }) {
  const { by, drives } = useRealTable();
  const name = module.name || "module";
  const [said, say] = useState<ReactNode>();
  const [busy, setBusy] = useState(false);
  const ask = (what: Promise<ReactNode>) => {
    setBusy(true);
    void what.then(say, (e: unknown) => say(<span role="alert">{reason(e)}</span>)).finally(() => setBusy(false));
  };
  return (
    <div className={css.memory}>
      <Quiet
        disabled={busy}
        aria-label={`Read memory of ${name}`}
        onClick={() => ask(recall(at).then((r) => <Held got={r} />))}
      >
        Read memory
      </Quiet>{" "}
      {drives && (
        <>
          <Quiet
            disabled={busy}
            aria-label={`Try its data lines: ${name}`}
            title="Writes a pattern and reads it back; then it shows again what it showed"
            onClick={() => ask(linesThere(by, at).then((l) => <Lines of={l} />))}
          >
            Try its data lines
          </Quiet>{" "}
          <Quiet
            disabled={busy}
            aria-label={`Time its oscillator: ${name}`}
            title="How long a clear takes, by the busy flag; then it shows again what it showed"
            onClick={() => ask(oscillatorThere(by, at).then((o) => <Timed of={o} module={module} />))}
          >
            Time its oscillator
          </Quiet>
        </>
      )}
      <div role="status">{said}</div>
    </div>
  );
}

/** What a module holds, beside what it was sent. */
function Held({ got }: { got: Recall }) {
  const base = useBase();
  const first = got.differ[0];
  const parts = [
    first && `${got.differ.length} cells differ, the first in row ${first.row + base}, column ${first.col + base}`,
    got.hidden > 0 && `${got.hidden} bytes outside the window differ`,
    got.glyphs.length > 0 && `the dots of slots ${got.glyphs.map((g) => g.slot + base).join(", ")} differ`,
  ].filter(Boolean);
  return (
    <>
      <p>{parts.length === 0 ? "It holds what was sent, cells and glyphs." : `${parts.join("; ")}.`}</p>
      <code>{got.text.join("\n")}</code>
    </>
  );
}

function Lines({ of: { differ, wrong } }: { of: DataLines }) {
  if (differ === 0) return <p>All data lines carry what they are sent.</p>;
  return (
    <p>
      {differ} bytes came back otherwise.{" "}
      {wrong.length > 0 ? <b>{wrong.join(". ")}.</b> : "No single line explains it: look at E, R/W and the supply."}
    </p>
  );
}

/** How fast it works, to be taken over as measured. */
function Timed({ of: { clearUs, kHz, minKHz, maxKHz }, module }: { of: Oscillator; module: Module }) {
  const { change } = useBench();
  const note = useNote();
  const [taken, setTaken] = useState(false);
  const lawful = kHz >= minKHz && kHz <= maxKHz;
  const take = () => {
    setTaken(true);
    change((b) => ({
      ...b,
      modules: b.modules.map((m) =>
        m.id === module.id
          ? { ...m, display: { ...m.display, measured: { ...m.display.measured, oscillatorKHz: kHz } } }
          : m,
      ),
    }));
    void note({
      kind: "measured",
      text: `Oscillator, by the busy flag (planned ${module.display.controller.oscillatorKHz} kHz):`,
      value: { name: "oscillator", amount: kHz, unit: "kHz" },
    }).catch(() => undefined); // the figure stands in the bench all the same
  };
  return (
    <p>
      A clear takes {(clearUs / 1000).toFixed(2)} ms: its oscillator runs at {kHz} kHz.{" "}
      {lawful ? (
        <Quiet disabled={taken} onClick={take}>
          {taken ? "Taken over" : "Take it over as measured"}
        </Quiet>
      ) : (
        `The data sheet has ${minKHz}–${maxKHz} kHz.`
      )}
    </p>
  );
}
