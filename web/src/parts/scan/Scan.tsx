import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { ApiError, type Bench, type BusNode, type ScanResult } from "../../api/client";
import { catalogQuery, printoutQuery, scanQuery } from "../../api/queries";
import { scanThere } from "../../api/realTable";
import { useRealTable } from "../../work/useRealTable";
import { useBench } from "../../work/BenchContext";
import { reason } from "../../work/reason";
import { useNote } from "../../work/useLog";
import { Choice } from "../../ui/Choice";
import { Quiet } from "../../ui/Quiet";
import { verdicts, type Match } from "./match";
import css from "./Scan.module.css";

interface Props {
  bench: Bench;
  nodes: BusNode[];
  /** What the scan in sight came to. */
  onMatches: (m: Match[]) => void;
}

type Mistake = NonNullable<Parameters<typeof scanQuery>[1]["mistake"]>;

/** A simulated bus to scan, and a box for what a real scanner printed. */
export function Scan({ bench, nodes, onMatches }: Props) {
  const [from, setFrom] = useState<"simulated" | "real" | "live">("simulated");
  const [mistake, setMistake] = useState<Mistake | "">("");
  const [of, setOf] = useState(0);
  const [channel, setChannel] = useState(0);
  const [text, setText] = useState("");
  const { data: catalog } = useQuery(catalogQuery);
  const one = catalog?.mistakes.find((m) => m.mistake === mistake)?.ofOne ?? false;
  const part = Math.min(of, Math.max(nodes.length - 1, 0));
  const simulated = useQuery({
    ...scanQuery(bench, { channel, mistake: mistake || undefined, of: one ? part : undefined }),
    enabled: from === "simulated" && !(one && nodes.length === 0),
  });
  const { table } = useRealTable();
  const [asked, setAsked] = useState("");
  const [refused, setRefused] = useState<string>();
  const there = async () => {
    setFrom("live");
    setAsked("");
    try {
      setAsked((await scanThere()).text);
      setRefused(undefined);
    } catch (e) {
      setRefused(reason(e));
    }
  };
  const print = { simulated: "", real: text, live: asked }[from];
  const real = useQuery(printoutQuery(bench, channel, print));
  const scan = from === "simulated" ? simulated : real;
  const result: ScanResult | undefined = from !== "simulated" && print.trim() === "" ? undefined : scan.data;
  const shown = scan.error ? undefined : result;
  useEffect(() => onMatches(shown?.matches ?? []), [shown, onMatches]);
  const note = useNote();
  const logged = useRef("");
  const [typing, setTyping] = useState(false);
  useEffect(() => {
    if (from === "simulated" || typing || !shown || print.trim() === "" || print === logged.current) return;
    logged.current = print;
    const found = shown.matches.filter((m) => m.verdict !== "missing").map((m) => `${m.hex}: ${m.says}`);
    void note({
      kind: "scan",
      module: "",
      text: found.length > 0 ? `The scan found ${found.join("; ")}.` : "The scan found nothing.",
    }).catch(() => undefined); // what was pasted still stands in the box
  }, [from, typing, shown, print, note]);
  const channels = [...new Set(nodes.map((n) => n.channel ?? 0))].filter((c) => c > 0).sort((a, b) => a - b);
  return (
    <section className={css.scan} aria-label="Scan">
      <h2>Scan before you program</h2>
      <div className={css.tabs} role="group" aria-label="What is scanned">
        <Quiet aria-pressed={from === "simulated"} onClick={() => setFrom("simulated")}>
          Simulated bus
        </Quiet>
        <Quiet aria-pressed={from === "real"} onClick={() => setFrom("real")}>
          My scanner printed
        </Quiet>
        <Quiet
          aria-pressed={from === "live"}
          disabled={!table?.connected}
          title={table?.connected ? "Ask the real bus who answers" : "Connect a board under Live first"}
          onClick={() => void there()}
        >
          The real bus
        </Quiet>
      </div>
      {channels.length > 0 && (
        <Choice label="Scanned through" value={channel} onChange={(v) => setChannel(Number(v))}>
          <option value={0}>the bus itself</option>
          {channels.map((c) => (
            <option key={c} value={c}>
              channel {c}
            </option>
          ))}
        </Choice>
      )}
      {from === "simulated" ? (
        <div className={css.two}>
          <Choice label="What is on it" value={mistake} onChange={(v) => setMistake(v as Mistake | "")}>
            {catalog?.mistakes.map((m) => (
              <option key={m.mistake} value={m.mistake}>
                {m.title}
              </option>
            ))}
          </Choice>
          {one && nodes.length > 0 && (
            <Choice label="which" value={part} onChange={(v) => setOf(Number(v))}>
              {nodes.map((n, i) => (
                <option key={n.path} value={i}>
                  {n.name}
                </option>
              ))}
            </Choice>
          )}
        </div>
      ) : from === "live" ? (
        <>
          {refused && <p role="alert">{refused}</p>}
          {asked ? <pre className={css.print}>{asked.trimEnd()}</pre> : !refused && <p>Asking every address…</p>}
        </>
      ) : (
        <textarea
          className={css.box}
          aria-label="What a scanner printed"
          rows={4}
          maxLength={65_536}
          placeholder={"Paste it as it is: sentences, [39, 104], 0x27, a table…"}
          value={text}
          onChange={(e) => setText(e.target.value)}
          onFocus={() => setTyping(true)}
          onBlur={() => setTyping(false)}
          onKeyDown={(e) => {
            if ((e.ctrlKey || e.metaKey) && /^[zy]$/i.test(e.key)) e.stopPropagation(); // the box undoes its own
          }}
        />
      )}
      {scan.error && <p role="alert">{scan.error instanceof ApiError ? scan.error.message : reason(scan.error)}</p>}
      {shown && (
        <>
          {shown.print && <pre className={css.print}>{shown.print.join("\n")}</pre>}
          {shown.why && <p className={css.note}>Nothing answers: {shown.why}.</p>}
          {shown.notes?.map((n) => (
            <p key={n} className={css.note}>
              {n}
            </p>
          ))}
          <Matches matches={shown.matches} />
        </>
      )}
    </section>
  );
}

/** Each address with what it is. */
function Matches({ matches }: { matches: Match[] }) {
  const { remedy } = useBench();
  return (
    <ul className={css.matches} aria-label="Addresses that answered or ought to">
      {matches.map((m) => (
        <li key={m.hex + m.verdict} data-verdict={m.verdict}>
          <p>
            <code>{m.hex}</code> <b>{verdicts[m.verdict]}</b> {m.says}
          </p>
          {m.adopt && (
            <Button size="small" variant="outlined" onClick={() => m.adopt && remedy(m.adopt)}>
              {m.adopt.label}
            </Button>
          )}
        </li>
      ))}
    </ul>
  );
}
