import { useRef, useState } from "react";
import { searchIn, type Instant, type Reading } from "../../api/recordings";
import type { Finding } from "../../api/client";
import { Findings } from "../../parts/findings/Findings";
import { Glass } from "../../parts/glass/Glass";
import { CELL_COLS } from "../../parts/glass/metrics";
import { MemoryMap } from "../../parts/memory/MemoryMap";
import { Registers } from "../../parts/memory/Registers";
import { Working } from "../../parts/progress/Working";
import { Check } from "../../ui/Check";
import { Tabs } from "../../ui/Tabs";
import { useWidth } from "../../ui/useWidth";
import { useBench } from "../../work/BenchContext";
import { Bar } from "./Bar";
import { Beside } from "./Beside";
import { Because, ChannelList } from "./ChannelList";
import { Drop } from "./Drop";
import { Effort } from "./Effort";
import { Lanes } from "./Lanes";
import { wordsOf } from "./lanes";
import { Operations } from "./Operations";
import { Overview } from "./Overview";
import { Said } from "./Said";
import { Stood } from "./Stood";
import { stamp } from "./time";
import { useInstant } from "./usePart";
import { useRecording, type Recording } from "./useRecording";
import { useWindow } from "./useWindow";
import css from "./RecordingView.module.css";

/** What was on the wires: dropped, its lines found, replayed on the glass, judged, and held against the bench. */
export default function RecordingView() {
  const recording = useRecording();
  const { reading, recording: held } = recording;
  if (!held) return <Drop recording={recording} />;
  if (!reading)
    return (
      <div className={css.waiting}>
        {recording.trouble ? (
          <>
            <p role="alert">{recording.trouble}</p>
            <Drop recording={recording} />
          </>
        ) : (
          <>
            <p role="status">Reading {held.name}…</p>
            <Working watch={recording.watch} says="Reading the recording" />
          </>
        )}
      </div>
    );
  return <Read key={held.id} recording={recording} reading={reading} />;
}

const tabs = [
  { id: "findings", title: "Findings" },
  { id: "operations", title: "Operations" },
  { id: "memory", title: "Memory" },
  { id: "better", title: "Cheaper" },
  { id: "beside", title: "Bench" },
] as const;

/** How near a finding is looked at, ns. */
const NEAR = 200_000;

/** A recording that was read. */
function Read({ recording, reading }: { recording: Recording; reading: Reading }) {
  const { module } = useBench();
  const moved = useWindow(reading.beginsNs, reading.endsNs);
  const { w } = moved;
  const [tab, setTab] = useState<(typeof tabs)[number]["id"]>("findings");
  const [still, setStill] = useState(false);
  const [none, setNone] = useState<string>();
  const instant = useInstant(reading.id, w.at, reading.found);
  const step = (what: "operation" | "edge" | "limit", back: boolean) => {
    const go = async () => {
      let at = await searchIn(reading.id, what, "", Math.round(w.at), back);
      if (at === undefined && what === "limit")
        // round the end
        at = await searchIn(reading.id, what, "", back ? Math.ceil(reading.endsNs) + 1 : 0, back);
      setNone(at === undefined ? `nothing ${back ? "before" : "after"} this time` : undefined);
      if (at === undefined) return;
      if (what === "limit") moved.near(at, Math.min(NEAR, w.to - w.from));
      else moved.look(at);
    };
    void go().catch(() => undefined); // the recording was let go of meanwhile
  };
  const all = reading.channels.map((_, i) => i);
  const lively = all.filter((i) => reading.channels[i]?.moves || reading.channels[i]?.line);
  const shown = still || lively.length === 0 ? all : lively;
  const says = none ?? instant?.last?.meaning ?? "";
  return (
    <div className={css.view}>
      <Said recording={recording} reading={reading} />
      <Overview reading={reading} moved={moved} />
      <Bar id={reading.id} found={reading.found} limits={reading.broken.length} moved={moved} step={step} />
      {recording.fetching && <Working watch={recording.watch} says="Reading it anew" />}
      {recording.trouble && (
        <p role="alert" className={css.trouble}>
          {recording.trouble}
        </p>
      )}
      <div className={css.middle}>
        <div className={css.wires}>
          <div className={css.channels}>
            <ChannelList
              reading={reading}
              shown={shown}
              words={wordsOf(reading)}
              lines={recording.lines}
              setLines={recording.setLines}
            />
            <Lanes reading={reading} shown={shown} moved={moved} step={step} says={says} />
          </div>
          {lively.length < all.length && (
            <Check checked={still} onChange={(e) => setStill(e.target.checked)}>
              also the {all.length - lively.length} channels that stand still
            </Check>
          )}
          {reading.found && <Because reading={reading} setLines={recording.setLines} />}
          <Stood reading={reading} at={w.at} look={moved.look} />
        </div>
        <div className={css.side}>
          {reading.found && instant && <Shown instant={instant} tint={module.display.tint} says={says} />}
          {reading.found && (
            <>
              <Tabs label="About the recording" tabs={tabs} value={tab} onChange={setTab} />
              <div
                className={css.panel}
                role="tabpanel"
                aria-label={tabs.find((t) => t.id === tab)?.title}
                tabIndex={0}
              >
                {tab === "findings" && (
                  <Findings
                    findings={reading.findings}
                    about="the recording"
                    none="None: no limit is broken, every byte is taken, and a program could hardly send less."
                    onPlace={(f) => placeOf(f, (at) => moved.near(at, Math.min(NEAR, w.to - w.from)))}
                  />
                )}
                {tab === "operations" && (
                  <Operations
                    id={reading.id}

                    of={reading.operations}
                    up={instant?.operation ?? 0}
                    look={moved.look}
                  />
                )}
                {tab === "memory" && instant?.controllers[0] && (
                  <>
                    <Registers
                      controller={instant.controllers[0]}
                      waitUs={40}
                      vfd={module.display.technology === "vfd"}
                    />
                    <MemoryMap controller={instant.controllers[0]} current={null} onCell={() => undefined} />
                  </>
                )}
                {tab === "better" && <Effort reading={reading} />}
                {tab === "beside" && <Beside reading={reading} look={moved.look} />}
              </div>
            </>
          )}
        </div>
      </div>
    </div>
  );
}

/** A finding that has a time can be gone to. */
function placeOf(f: Finding, go: (at: number) => void) {
  const { atNs } = f;
  return atNs === undefined ? undefined : { name: stamp(atNs), go: () => go(atNs) };
}

const FRAME = 24; // px, of the bezel

/** The glass at the time that is looked at. */
function Shown({ instant, tint, says }: { instant: Instant; tint: string | undefined; says: string }) {
  const box = useRef<HTMLElement>(null);
  const width = useWidth(box);
  const pitch = Math.max(1, Math.floor(((width - FRAME) / (instant.glass.cols * CELL_COLS)) * 2) / 2);
  return (
    <figure ref={box} className={css.glass}>
      <div className={css.bezel}>
        <Glass glass={instant.glass} tint={tint} pitch={pitch} name="The recorded module" />
      </div>
      <figcaption>
        The glass at {stamp(instant.atNs)}
        <small>{says}</small>
      </figcaption>
    </figure>
  );
}
