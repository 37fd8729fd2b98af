import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { catalogQuery } from "../../api/queries";
import { Icon } from "../../ui/Icon";
import { useTable } from "../../work/useTable";
import { Bare } from "../../ui/Bare";
import type { Thing } from "./TableDrawing";
import { TextBox } from "../../ui/TextBox";
import css from "./Panel.module.css";

interface Props {
  onPick: (t: Thing) => void;
  /** Nothing is to be added after all. */
  onCancel: () => void;
}

/** Asks which device is to join the bus, before anything stands there. */
export function NewDevice({ onPick, onCancel }: Props) {
  const { addDevice } = useTable();
  const { data: catalog } = useQuery(catalogQuery);
  const [sought, setSought] = useState("");
  const word = sought.trim().toLowerCase();
  const found = catalog?.parts.filter((p) => `${p.name} ${p.what}`.toLowerCase().includes(word)) ?? [];
  const add = (part: string, address: number) => onPick({ kind: "device", id: addDevice({ part, address }) });
  const own = () => add(sought.trim().slice(0, 40), 0x48);
  return (
    <section
      className={css.panel}
      aria-label="New device"
      onKeyDown={(e) => {
        if (e.key === "Escape") onCancel();
      }}
    >
      <h2>Which device?</h2>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          const [first] = found;
          if (first) add(first.name, first.addresses[0] ?? 0);
          else own();
        }}
      >
        <TextBox
          aria-label="Part number, or what it does"
          placeholder="clock, DS3231, temperature …"
          autoFocus
          value={sought}
          onChange={(e) => setSought(e.target.value)}
        />
      </form>
      <ul className={css.choices}>
        {found.map((p) => (
          <li key={p.name}>
            <Bare onClick={() => add(p.name, p.addresses[0] ?? 0)}>
              <b>{p.name}</b> {p.what} <code>{p.range}</code>
            </Bare>
          </li>
        ))}
        <li>
          <Bare onClick={own}>
            <Icon name="plus" size={15} /> <b>{sought.trim() || "A part of my own"}</b> not in this list: you say at
            which addresses it answers
          </Bare>
        </li>
      </ul>
      <Button variant="outlined" onClick={onCancel}>
        None after all
      </Button>
    </section>
  );
}
