import { memo, useState } from "react";
import type { Finding } from "../../api/client";
import type { Instant, Reading } from "../../api/recordings";
import { Findings } from "../../parts/findings/Findings";
import { MemoryMap } from "../../parts/memory/MemoryMap";
import { Registers } from "../../parts/memory/Registers";
import { Tabs } from "../../ui/Tabs";
import { useBench } from "../../work/BenchContext";
import { Beside } from "./Beside";
import { Effort } from "./Effort";
import { Operations } from "./Operations";
import { stamp } from "./time";
import css from "./RecordingView.module.css";

const tabs = [
  { id: "findings", title: "Findings" },
  { id: "operations", title: "Operations" },
  { id: "memory", title: "Memory" },
  { id: "better", title: "Cheaper" },
  { id: "beside", title: "Bench" },
] as const;

/** A finding that has a time can be gone to. */
function placeOf(f: Finding, go: (at: number) => void) {
  const { atNs } = f;
  return atNs === undefined ? undefined : { name: stamp(atNs), go: () => go(atNs) };
}

interface Props {
  reading: Reading;
  /** The module at the time that is looked at. */
  instant: Instant | undefined;
  look: (ns: number) => void;
  /** Looks at a time from near. */
  goTo: (ns: number) => void;
}

/** What is said of a recording: findings, operations, the module's memory, what a better program takes, how the bench's own differs. */
export const About = memo(function About({ reading, instant, look, goTo }: Props) {
  const { module } = useBench();
  const [tab, setTab] = useState<(typeof tabs)[number]["id"]>("findings");
  const controller = instant?.controllers[0];
  return (
    <>
      <Tabs label="About the recording" tabs={tabs} value={tab} onChange={setTab} />
      <div className={css.panel} role="tabpanel" aria-label={tabs.find((t) => t.id === tab)?.title} tabIndex={0}>
        {tab === "findings" && (
          <Findings
            findings={reading.findings}
            about="the recording"
            none="None: no limit is broken, every byte is taken, and a program could hardly send less."
            onPlace={(f) => placeOf(f, goTo)}
          />
        )}
        {tab === "operations" && (
          <Operations id={reading.id} of={reading.operations} up={instant?.operation ?? 0} look={look} />
        )}
        {tab === "memory" && controller && (
          <>
            <Registers controller={controller} waitUs={40} vfd={module.display.technology === "vfd"} />
            <MemoryMap controller={controller} current={null} onCell={() => undefined} />
          </>
        )}
        {tab === "better" && <Effort reading={reading} />}
        {tab === "beside" && <Beside reading={reading} look={look} />}
      </div>
    </>
  );
});
