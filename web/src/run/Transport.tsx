import IconButton from "@mui/material/IconButton";
import ToggleButton from "@mui/material/ToggleButton";
import type { Step } from "../api/client";
import { Icon } from "../ui/Icon";
import { clock } from "../ui/numbers";
import { SPEEDS, type Player } from "./usePlayer";
import css from "./Transport.module.css";

interface Props {
  steps: Step[];
  player: Player;
  stopAt: string;
  setStopAt: (text: string) => void;
  stops: ReadonlySet<number>;
  marked: boolean;
  toggleMark: () => void;
}

/** Play, step, scrub and stop. */
export function Transport({ steps, player, stopAt, setStopAt, stops, marked, toggleMark }: Props) {
  const { at, playing } = player;
  const step = steps[at];
  return (
    <div className={css.bar} role="toolbar" aria-label="Run">
      <IconButton aria-label="Step back" onClick={() => player.goTo(at - 1)} color="inherit">
        <Icon name="back" />
      </IconButton>
      <IconButton aria-label={playing ? "Pause" : "Play"} onClick={player.toggle} color="primary">
        <Icon name={playing ? "pause" : "play"} size={26} />
      </IconButton>
      <IconButton aria-label="Step" onClick={() => player.goTo(at + 1)} color="inherit">
        <Icon name="next" />
      </IconButton>
      <span className={css.scrub}>
        <input
          type="range"
          aria-label="Step of the run"
          min={-1}
          max={steps.length - 1}
          value={at}
          onChange={(e) => player.goTo(Number(e.target.value))}
        />
        {[...stops].map((s) => (
          <i key={s} style={{ left: `${((s + 1) / steps.length) * 100}%` }} />
        ))}
      </span>
      <output className={css.where}>
        {at < 0 ? "Power-up" : `Step ${at + 1} of ${steps.length}`}
        <small>{clock(step ? step.startUs + step.wireUs : 0)} ms</small>
      </output>
      <select
        className="entry"
        aria-label="Speed"
        value={player.speed}
        onChange={(e) => player.setSpeed(Number(e.target.value))}
      >
        {SPEEDS.map((s) => (
          <option key={s.factor} value={s.factor}>
            {s.title}
          </option>
        ))}
      </select>
      <ToggleButton value="loop" size="small" selected={player.loop} onChange={() => player.setLoop(!player.loop)}>
        Loop
      </ToggleButton>
      <ToggleButton value="stop" size="small" selected={marked} onChange={toggleMark}>
        Stop here
      </ToggleButton>
      <input
        className={`entry ${css.stop}`}
        aria-label="Stop where the meaning has"
        placeholder="Stop at: address 0x40"
        value={stopAt}
        onChange={(e) => setStopAt(e.target.value)}
      />
    </div>
  );
}
