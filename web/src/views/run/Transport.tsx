import IconButton from "@mui/material/IconButton";
import ToggleButton from "@mui/material/ToggleButton";
import type { Step } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { clock } from "../../ui/numbers";
import type { StopSearch } from "./useStops";
import { Faults } from "./Faults";
import { SPEEDS, type Player } from "./usePlayer";
import { List } from "../../ui/List";
import { TextBox } from "../../ui/TextBox";
import css from "./Transport.module.css";

interface Props {
  steps: Step[];
  player: Player;
  stops: ReadonlySet<number>;
  search: StopSearch;
}

/** Play, step, scrub and stop. */
export function Transport({ steps, player, stops, search }: Props) {
  const { at, playing } = player;
  const step = steps[at];
  return (
    <div className={css.bar} role="toolbar" aria-label="Run">
      <IconButton aria-label="Step back" title="Step back (F7)" onClick={() => player.move(-1)} color="inherit">
        <Icon name="back" />
      </IconButton>
      <IconButton
        aria-label={playing ? "Pause" : "Play"}
        title={playing ? "Pause (F8)" : "Play (F8)"}
        onClick={player.toggle}
        color="primary"
      >
        <Icon name={playing ? "pause" : "play"} size={26} />
      </IconButton>
      <IconButton aria-label="Step" title="Step (F9)" onClick={() => player.move(1)} color="inherit">
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
      <List
        aria-label="Speed"
        title="In slow motion the host's waits are cut to half a second"
        value={player.speed}
        onChange={(e) => player.setSpeed(Number(e.target.value))}
      >
        {SPEEDS.map((s) => (
          <option key={s.factor} value={s.factor}>
            {s.title}
          </option>
        ))}
      </List>
      <ToggleButton value="loop" size="small" selected={player.loop} onChange={() => player.setLoop(!player.loop)}>
        Loop
      </ToggleButton>
      <Faults />
      <span className={css.stop}>
        <TextBox
          aria-label="Stop at a step, an address or a meaning"
          aria-invalid={search.error !== undefined}
          aria-describedby="stops-found"
          placeholder="Stop at 12, 0x40, clear"
          value={search.text}
          onChange={(e) => search.setText(e.target.value)}
        />
        <small id="stops-found" role="status" data-wrong={search.error !== undefined || undefined}>
          {search.error ?? search.found}
        </small>
      </span>
    </div>
  );
}
