import { memo, useCallback, useMemo, useRef, useState } from "react";
import { searchIn, type Instant, type Reading } from "../../api/recordings";
import { Glass } from "../../parts/glass/Glass";
import { CELL_COLS } from "../../parts/glass/metrics";
import { Working } from "../../parts/progress/Working";
import { Check } from "../../ui/Check";
import { useLatest } from "../../ui/useLatest";
import { useWidth } from "../../ui/useWidth";
import { useBench } from "../../work/BenchContext";
import { About } from "./About";
import { Bar } from "./Bar";
import { Because, ChannelList } from "./ChannelList";
import { Drop } from "./Drop";
import { Lanes } from "./Lanes";
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

/** A recording that was read. */
function Read({ recording, reading }: { recording: Recording; reading: Reading }) {
  const { module } = useBench();
  const moved = useWindow(reading.beginsNs, reading.endsNs);
  const { w } = moved;
  const [still, setStill] = useState(false);
  const [none, setNone] = useState<string>();
  const instant = useInstant(reading.id, w.at, reading.found);
  const atRef = useLatest(w.at);
  const { look, near } = moved;
  const step = useCallback(
    (what: "operation" | "edge" | "limit", back: boolean) => {
      const go = async () => {
        const began = atRef.current;
        const now = Math.round(began);
        let at = await searchIn(reading.id, what, "", now, back);
        if (at === undefined && what === "limit")
          // round the end
          at = await searchIn(reading.id, what, "", back ? Math.ceil(reading.endsNs) + 1 : 0, back);
        if (atRef.current !== began) return; // one looks elsewhere by now
        setNone(at === undefined ? `nothing ${back ? "before" : "after"} this time` : undefined);
        if (at === undefined) return;
        if (what === "limit") near(at);
        else look(at);
      };
      void go().catch(() => undefined); // the recording was let go of meanwhile
    },
    [atRef, look, near, reading],
  );
  const { all, lively, shown } = useMemo(() => {
    const all = reading.channels.map((_, i) => i);
    const lively = all.filter((i) => reading.channels[i]?.moves || reading.channels[i]?.line);
    return { all, lively, shown: still || lively.length === 0 ? all : lively };
  }, [reading, still]);
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
            <ChannelList reading={reading} shown={shown} lines={recording.lines} setLines={recording.setLines} />
            <Lanes reading={reading} shown={shown} moved={moved} step={step} says={says} />
          </div>
          {lively.length < all.length && (
            <Check checked={still} onChange={(e) => setStill(e.target.checked)}>
              also the {all.length - lively.length} channels that stand still
            </Check>
          )}
          {reading.found && <Because reading={reading} setLines={recording.setLines} />}
          <Stood reading={reading} at={w.at} look={look} />
        </div>
        <div className={css.side}>
          {reading.found && instant && <Shown instant={instant} tint={module.display.tint} says={says} />}
          {reading.found && <About reading={reading} instant={instant} look={look} goTo={near} />}
        </div>
      </div>
    </div>
  );
}

const FRAME = 24; // px, of the bezel

/** The glass at the time that is looked at. */
const Shown = memo(function Shown({
  instant,
  tint,
  says,
}: {
  instant: Instant;
  tint: string | undefined;
  says: string;
}) {
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
});
