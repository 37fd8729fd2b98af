import IconButton from "@mui/material/IconButton";
import { useRef, useState } from "react";
import { type Bench, type Finding, type Module } from "../../api/client";
import { eventsFromCSV, eventsToCSV, judgePlay } from "../../api/plays";
import { watchName } from "../../api/progress";
import { Working } from "../../parts/progress/Working";
import { Icon } from "../../ui/Icon";
import { keep } from "../../ui/keep";
import { reason } from "../../work/reason";
import type { Play } from "../../work/usePlay";
import { clock, time } from "../../work/showWords";
import { List } from "../../ui/List";
import { Check } from "../../ui/Check";
import { Quiet } from "../../ui/Quiet";
import { OnTheTable } from "./OnTheTable";
import css from "./Transport.module.css";

const speeds = [
  { factor: 0.1, title: "10 times slower" },
  { factor: 0.25, title: "4 times slower" },
  { factor: 1, title: "real time" },
  { factor: 4, title: "4 times faster" },
  { factor: 20, title: "20 times faster" },
];

interface Props {
  play: Play;
  module: Module;
  bench: Bench;
  whole: boolean;
  onWhole: (on: boolean) => void;
  /** What was found about falling behind. */
  onJudged: (f: Finding[]) => void;
}

/** Play, step, begin anew; what happened is kept as a file and happens again from one. */
export function Transport({ play, module, bench, whole, onWhole, onJudged }: Props) {
  const file = useRef<HTMLInputElement>(null);
  const [said, say] = useState<string>();
  const [judging, setJudging] = useState(false);
  const [watch] = useState(watchName);
  const dropped = play.parts.reduce((n, p) => n + p.dropped, 0);
  const lost = play.parts.reduce((n, p) => n + p.lost, 0);
  const judge = async () => {
    say(undefined);
    setJudging(true);
    try {
      const at = bench.modules.findIndex((m) => m.id === module.id);
      const { findings } = await judgePlay(bench, at, play.events, Math.min(Math.round(play.now), 600_000), watch);
      say(findings.length === 0 ? "Nothing of this module waited or was lost" : undefined);
      onJudged(findings);
    } catch (e) {
      say(reason(e));
    }
    setJudging(false);
  };
  const inputs = module.show?.inputs ?? [];
  const read = async (f: File) => {
    try {
      const got = await eventsFromCSV(inputs, await f.text());
      say(`${got.length} events of ${f.name} happen again`);
      play.restart(got);
    } catch (e) {
      say(`${f.name}: ${reason(e)}`);
    }
  };
  const write = async () => {
    try {
      keep(`${module.id}-events.csv`, await eventsToCSV(inputs, play.events), "text/csv;charset=utf-8");
    } catch (e) {
      say(reason(e));
    }
  };
  return (
    <div className={css.bar} role="toolbar" aria-label="Show">
      <IconButton aria-label="Begin anew" title="Begin anew" onClick={() => play.restart()} color="inherit">
        <Icon name="back" />
      </IconButton>
      <IconButton
        aria-label={play.playing ? "Pause" : "Play"}
        title={play.playing ? "Pause (F8)" : "Play (F8)"}
        onClick={play.toggle}
        color="primary"
      >
        <Icon name={play.playing ? "pause" : "play"} size={26} />
      </IconButton>
      <IconButton aria-label="To the next change" title="To the next change (F9)" onClick={play.step} color="inherit">
        <Icon name="next" />
      </IconButton>
      <output className={css.clock} aria-label="Time of the show" data-ms={Math.round(play.now)}>
        {clock(play.now)}
      </output>
      <List aria-label="Speed" value={play.speed} onChange={(e) => play.setSpeed(Number(e.target.value))}>
        {speeds.map((s) => (
          <option key={s.factor} value={s.factor}>
            {s.title}
          </option>
        ))}
      </List>
      <Check checked={whole} onChange={(e) => onWhole(e.target.checked)}>
        all modules
      </Check>
      {judging ? (
        <div className={css.load}>
          <Working watch={watch} says="Playing what might help" />
        </div>
      ) : (
        <p className={css.load} role="status">
          {said ?? load(play)}
        </p>
      )}
      {dropped + lost > 0 && (
        <Quiet className={css.behind} onClick={() => void judge()}>
          {dropped > 0 && `${dropped} overtaken`}
          {dropped > 0 && lost > 0 && ", "}
          {lost > 0 && `${lost} characters lost`}: what helps?
        </Quiet>
      )}
      <Quiet
        disabled={play.events.length === 0}
        title="What happened to the inputs, as a CSV file"
        onClick={() => void write()}
      >
        Keep events
      </Quiet>
      <Quiet
        disabled={play.events.length === 0}
        title="Begins anew; what happened happens again at its times"
        onClick={() => play.restart(play.events)}
      >
        Once more
      </Quiet>
      <OnTheTable bench={bench} module={module} />
      <Quiet title="Events from a CSV file: time_ms,input,value" onClick={() => file.current?.click()}>
        From a file
      </Quiet>
      <input
        ref={file}
        type="file"
        accept=".csv,text/csv"
        hidden
        onChange={(e) => {
          const f = e.target.files?.[0];
          e.target.value = "";
          if (f) void read(f);
        }}
      />
    </div>
  );
}

/** What the last changes cost, in words. */
function load(play: Play): string {
  const last = play.parts.flatMap((p) => p.sent.slice(-1)).sort((a, b) => b.at - a.at)[0];
  if (!last) return "";
  const late = last.waited > 0.05 ? `, ${time(last.waited)} late` : "";
  return `Last change: ${last.bytes} ${last.bytes === 1 ? "byte" : "bytes"}, ${last.busy.toFixed(2)} ms${late}`;
}
