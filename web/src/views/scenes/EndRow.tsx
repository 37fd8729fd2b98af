import type { End, Input, Scene } from "../../api/plays";
import { Icon } from "../../ui/Icon";
import { happenings, inputTitle, sceneTitle } from "../../work/showWords";
import { List } from "../../ui/List";
import { NumberField } from "../../ui/NumberField";
import { Quiet } from "../../ui/Quiet";
import css from "./Sheet.module.css";

interface EndProps {
  end: End;
  chosen: boolean;
  scenes: Scene[];
  inputs: Input[];
  edits: boolean;
  onFocus: () => void;
  onChange: (next: Partial<End>, tag?: string) => void;
  onRemove: () => void;
}

/** One end: a time, or what an input does, and the scene that follows. */
export function EndRow({ end, chosen, scenes, inputs, edits, onFocus, onChange, onRemove }: EndProps) {
  const input = inputs.find((i) => i.id === end.input);
  const typed = end.on === "accept" || end.on === "cancel";
  const by = typed ? `:${end.on}` : (end.input ?? "");
  const on = input && (end.on ?? happenings[input.kind][0]?.on);
  return (
    <li data-chosen={chosen || undefined} onFocus={onFocus}>
      <List
        className={typed ? css.wide : undefined}
        aria-label="What ends it"
        value={by}
        onChange={(e) => {
          const v = e.target.value;
          if (v.startsWith(":"))
            onChange({ on: v.slice(1) as End["on"], input: undefined, afterMs: undefined, level: undefined });
          else if (v === "") onChange({ input: undefined, on: undefined, level: undefined, afterMs: 2000 });
          else onChange({ input: v, on: undefined, afterMs: undefined, level: undefined });
        }}
      >
        <option value="">a time</option>
        {inputs.map((i) => (
          <option key={i.id} value={i.id}>
            {inputTitle(i)}
          </option>
        ))}
        {edits && <option value=":accept">what is typed is accepted</option>}
        {edits && <option value=":cancel">it is cancelled</option>}
      </List>
      {!typed && !input && (
        <NumberField
          label="after, s"
          className={css.short}
          value={(end.afterMs ?? 0) / 1000}
          from={0.001}
          to={86_400}
          onChange={(s) => onChange({ afterMs: Math.round(s * 1000) }, "time")}
        />
      )}
      {input && (happenings[input.kind].length > 1 || input.kind === "signal") && (
        <List aria-label="What of it" value={on} onChange={(e) => onChange({ on: e.target.value as End["on"] })}>
          {happenings[input.kind].map((h) => (
            <option key={h.on} value={h.on}>
              {h.title}
            </option>
          ))}
        </List>
      )}
      {input?.kind === "signal" && (
        <NumberField
          label="level"
          className={css.short}
          value={end.level ?? 0}
          onChange={(level) => onChange({ level })}
        />
      )}
      <span className={css.next}>
        <Icon name="right" size={14} />
        <List aria-label="The scene that follows" value={end.next} onChange={(e) => onChange({ next: e.target.value })}>
          {scenes.map((s) => (
            <option key={s.id} value={s.id}>
              {sceneTitle(s)}
            </option>
          ))}
        </List>
        <Quiet aria-label="Remove this end" title="Remove this end" onClick={onRemove}>
          <Icon name="close" size={14} />
        </Quiet>
      </span>
    </li>
  );
}
