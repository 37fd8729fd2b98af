import type { Module } from "../../api/client";
import type { Scene, Show } from "../../api/plays";
import { Choice } from "../../ui/Choice";
import { Icon } from "../../ui/Icon";
import { InlineText } from "../../ui/InlineText";
import { EditPart, type Change } from "./EditPart";
import { addEnd, changeEnd, changeScene, removeEnd } from "./edits";
import { EffectPart } from "./EffectPart";
import type { Drawing } from "./Drawings";
import { EndRow } from "./EndRow";
import { Check } from "../../ui/Check";
import { Quiet } from "../../ui/Quiet";
import css from "./Sheet.module.css";

interface Props {
  module: Module;
  show: Show;
  scene: Scene;
  end: number | undefined;
  library: Drawing[];
  change: Change;
  onRemove: () => void;
  onEnd: (end: number) => void;
}

/** A scene: its screen, what ends it, what moves in it, and what is edited in it on the device. */
export function SceneSheet({ module, show, scene, end, library, change, onRemove, onEnd }: Props) {
  const { scenes = [], inputs = [] } = show;
  const set = (next: Partial<Scene>, tag?: string) => change((s) => changeScene(s, scene.id, next), tag);
  const first = (show.start ?? scenes[0]?.id) === scene.id;
  const follower = scenes[scenes.indexOf(scene) + 1] ?? scenes[0];
  return (
    <div className={css.sheet}>
      <div className={css.head}>
        <InlineText
          label="Name of the scene"
          value={scene.name ?? ""}
          placeholder={scene.id}
          strong
          onChange={(name) => set({ name })}
        />
        <Quiet aria-label="Remove the scene" title="Remove the scene" onClick={onRemove}>
          <Icon name="bin" size={16} />
        </Quiet>
      </div>
      <Choice label="Screen" value={scene.screen} onChange={(screen) => set({ screen })}>
        {module.screens.map((s, i) => (
          <option key={s.id} value={s.id}>
            {i + 1} {s.name || s.id}
          </option>
        ))}
      </Choice>
      <div className={css.switches}>
        <Check checked={scene.off ?? false} onChange={(e) => set({ off: e.target.checked })}>
          display off, its text kept
        </Check>
        <Check checked={first} disabled={first} onChange={() => change((s) => ({ ...s, start: scene.id }))}>
          the show begins here
        </Check>
      </div>
      <h3>It ends</h3>
      <ul className={css.ends}>
        {(scene.ends ?? []).map((e, i) => (
          <EndRow
            key={i}
            end={e}
            chosen={end === i}
            scenes={scenes}
            inputs={inputs}
            edits={Boolean(scene.edit?.field)}
            onFocus={() => onEnd(i)}
            onChange={(next, tag) => change((s) => changeEnd(s, scene.id, i, next), tag)}
            onRemove={() => change((s) => removeEnd(s, scene.id, i))}
          />
        ))}
      </ul>
      <Quiet
        onClick={() => {
          change((s) => addEnd(s, scene.id, { afterMs: 2000, next: follower?.id ?? scene.id }));
          onEnd(scene.ends?.length ?? 0);
        }}
      >
        New end
      </Quiet>
      <EffectPart module={module} scene={scene} library={library} set={set} />
      <EditPart module={module} scene={scene} inputs={inputs} set={set} change={change} />
    </div>
  );
}
