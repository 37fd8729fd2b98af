import { useState, type ReactNode } from "react";
import type { Setup } from "../api/client";
import { actThere, measureThere, oscillatorThere, scanThere, type Act } from "../api/realTable";
import { Quiet } from "../ui/Quiet";
import { List } from "../ui/List";
import { hex } from "../ui/numbers";
import { reason } from "../work/reason";
import { useRealTable } from "../work/useRealTable";

/** A button for something that a board does, with what came of it beside it. */
function There({ does, children, before }: { does: () => Promise<string>; children: ReactNode; before?: ReactNode }) {
  const [said, say] = useState("");
  const [busy, setBusy] = useState(false);
  const act = () => {
    setBusy(true);
    void does()
      .then(say, (e: unknown) => say(reason(e)))
      .finally(() => setBusy(false));
  };
  return (
    <p>
      {before}
      <Quiet disabled={busy} onClick={act}>
        {children}
      </Quiet>{" "}
      <span role="status">{said}</span>
    </p>
  );
}

const acts: Record<Act, { title: string; done: string }> = {
  send: { title: "Send it to the real glass", done: "Sent: look at the glass." },
  slow: { title: "Run it slowly on the real glass", done: "Sent: look at the glass." },
  begin: { title: "Reset the real board", done: "It was reset, and begun anew: look at the glass." },
  light: { title: "Switch the real light off and on", done: "It was off for a second: did you see it?" },
  blink: { title: "Let the real cursor blink", done: "It blinks in the first cell: time ten of its blinks." },
  chart: { title: "Show the chart on the real glass", done: "Sent: look at the glass." },
};

/** What a board does by itself of a test, where this page drives one. */
export function ActThere({ act, setup, children }: { act: Act; setup: Setup; children?: string }) {
  const { by, table, drives } = useRealTable();
  if (!drives || (act === "light" && !table?.modules[setup.at?.module ?? 0]?.light)) return null;
  return <There does={() => actThere(by, act, setup).then(() => acts[act].done)}>{children ?? acts[act].title}</There>;
}

/** Scans the real bus, where a board is connected, and hands on what answers. */
export function ScanThere({ onFound }: { onFound: (found: number[]) => string }) {
  const { table } = useRealTable();
  if (!table?.connected) return null;
  const scan = async () => {
    const { found } = await scanThere();
    const list =
      found.length > 0 ? `${found.map(hex).join(", ")} ${found.length > 1 ? "answer" : "answers"}.` : "Nobody answers.";
    return `${list} ${onFound(found)}`;
  };
  return <There does={scan}>Scan the real bus</There>;
}

/** Measures a voltage of a module by a wire to a free pin of the host, where a board is connected that has one, and hands it on. */
export function MeasureThere({
  module,
  what,
  onMeasured,
}: {
  module: number;
  what: string;
  /** Takes it, and says what is to be said of it. */
  onMeasured: (mV: number) => string;
}) {
  const { table } = useRealTable();
  const spare = table?.spare ?? [];
  const [chosen, setChosen] = useState<string>();
  const pin = chosen !== undefined && spare.includes(chosen) ? chosen : spare[0];
  if (!table?.connected || pin === undefined) return null;
  if (!table.modules[module]?.bears) return <p>Take a meter: the module is fed with more than the host’s pins bear.</p>;
  const measure = async () => {
    const { mV, ofMV } = await measureThere(pin, module);
    return `${(mV / 1000).toFixed(2)} V, of the host’s ${(ofMV / 1000).toFixed(1)} V. ${onMeasured(mV)}`;
  };
  return (
    <There
      does={measure}
      before={
        <>
          A wire from {what} to{" "}
          <List aria-label={`Pin that measures ${what}`} value={pin} onChange={(e) => setChosen(e.target.value)}>
            {spare.map((p) => (
              <option key={p} value={p}>
                {p}
              </option>
            ))}
          </List>
          , never from below ground:{" "}
        </>
      }
    >
      Measure it there
    </There>
  );
}

/** Times the busy flag of a module that can be read, where this page drives a board, and hands on its oscillator's speed. */
export function OscillatorThere({ module, onTimed }: { module: number; onTimed: (kHz: number) => ReactNode }) {
  const { by, table, drives } = useRealTable();
  const [after, setAfter] = useState<ReactNode>();
  if (!drives || !table?.modules[module]?.reads) return null;
  const time = async () => {
    setAfter(undefined);
    const { kHz, clearUs } = await oscillatorThere(by, module);
    setAfter(onTimed(kHz));
    return `A clear takes ${(clearUs / 1000).toFixed(2)} ms: ${kHz} kHz.`;
  };
  return (
    <>
      <There does={time}>Time its busy flag</There>
      {after}
    </>
  );
}
