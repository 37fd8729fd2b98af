import Button from "@mui/material/Button";
import Divider from "@mui/material/Divider";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import { useState } from "react";
import type { Edit, Feed, GroupRequest, Input, PlayEvent, PlayKey, PlayedPart } from "../../api/plays";
import type { FieldOf } from "../../api/client";
import { Device, Pad, pad, rangeOf } from "../../parts/inputs/Device";
import { inputTitle, kindTitles } from "../../work/showWords";
import { Bare } from "../../ui/Bare";
import css from "./Console.module.css";

type Group = GroupRequest["group"];

type Happen = (e: Omit<PlayEvent, "atMs">) => void;

interface Props {
  inputs: Input[];
  feeds: Feed[];
  fields: FieldOf[];
  state: PlayedPart["state"] | undefined;
  /** What a scene edits on the device: of the scene that is played, or of the first that does. */
  edit: Edit | undefined;
  /** What a hand does at the keys of that edit. */
  keys: PlayKey[];
  chosen: string | undefined;
  onChoose: (id: string) => void;
  onHappen: Happen;
  onAdd: (kind: Input["kind"]) => void;
  onAddGroup: (group: Group) => void;
}

/** The inputs as they lie on the table: each can be worked by pointer, touch and keys while the show plays. */
export function Console(props: Props) {
  const { inputs, feeds, fields, state, edit, keys, chosen, onChoose, onHappen, onAdd, onAddGroup } = props;
  return (
    <section className={css.console} aria-label="Inputs">
      {edit && <Pad edit={edit} keys={keys} onHappen={onHappen} />}
      {inputs.map((input, i) => {
        if (edit && input.kind === "button" && pad(edit, input.id)) return null;
        const known = state?.inputs[i];
        return (
          <div key={input.id} className={css.device} data-chosen={chosen === input.id || undefined}>
            <Bare
              className={css.title}
              title={`${kindTitles[input.kind]}: set it up`}
              onClick={() => onChoose(input.id)}
            >
              {inputTitle(input)}
            </Bare>
            <Device
              input={input}
              known={known}
              range={rangeOf(input, feeds, fields)}
              onHappen={(e) => onHappen({ ...e, input: input.id })}
            />
            {known?.wired && <small className={css.wired}>{known.wired}</small>}
          </div>
        );
      })}
      <Adder onAdd={onAdd} onAddGroup={onAddGroup} none={inputs.length === 0} />
    </section>
  );
}

const kinds = Object.keys(kindTitles) as Input["kind"][];

const groups: { group: Group; title: string }[] = [
  { group: "stick", title: "Stick: two ways and a press" },
  { group: "encoder", title: "Rotary encoder with a press" },
  { group: "row", title: "Row of buttons on one pin" },
];

interface AdderProps {
  onAdd: Props["onAdd"];
  onAddGroup: Props["onAddGroup"];
  none: boolean;
}

function Adder({ onAdd, onAddGroup, none }: AdderProps) {
  const [anchor, setAnchor] = useState<HTMLElement>();
  const pick = (add: () => void) => () => {
    setAnchor(undefined);
    add();
  };
  return (
    <div className={css.adder}>
      {none && <p>What the show listens to: buttons, counters, a serial line, readings.</p>}
      <Button
        variant="outlined"
        aria-haspopup="menu"
        aria-expanded={anchor !== undefined}
        onClick={(e) => setAnchor(e.currentTarget)}
      >
        New input…
      </Button>
      {anchor && (
        <Menu open anchorEl={anchor} transitionDuration={0} onClose={() => setAnchor(undefined)}>
          {kinds.map((k) => (
            <MenuItem key={k} onClick={pick(() => onAdd(k))}>
              {kindTitles[k]}
            </MenuItem>
          ))}
          <Divider />
          {groups.map((g) => (
            <MenuItem key={g.group} onClick={pick(() => onAddGroup(g.group))}>
              {g.title}
            </MenuItem>
          ))}
        </Menu>
      )}
    </div>
  );
}
