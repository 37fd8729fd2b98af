import { useState } from "react";
import { api, lasting } from "../../api/client";
import { reason } from "../../work/reason";
import { List } from "../../ui/List";
import { TextBox } from "../../ui/TextBox";
import css from "./BusView.module.css";

/** For someone who does not know which expander a backpack carries: what can be seen, tried or scanned narrows it. */
export function Expander() {
  const [printed, setPrinted] = useState<"" | "PCF8574" | "PCF8574A">("");
  const [text, setText] = useState("");
  const [pads, setPads] = useState("");
  const body = { printed, pads, answers: text };
  const { data, error } = api.useQuery("post", "/api/plan/expander", { body }, lasting);
  return (
    <details className={css.help}>
      <summary>I do not know which expander I have</summary>
      <div className={css.ask}>
        <label>
          What is printed on the backpack’s largest chip?
          <List value={printed} onChange={(e) => setPrinted(e.target.value as typeof printed)}>
            <option value="">I cannot read it</option>
            <option value="PCF8574">8574 and a letter that is no A, such as 8574T</option>
            <option value="PCF8574A">8574A</option>
          </List>
        </label>
        <label>
          Which pads A0–A2 are bridged with solder?
          <List value={pads} onChange={(e) => setPads(e.target.value)}>
            <option value="">I cannot tell</option>
            <option value="none">none</option>
            <option value="A0">A0</option>
            <option value="A1">A1</option>
            <option value="A0 A1">A0 and A1</option>
            <option value="A2">A2</option>
            <option value="A0 A2">A0 and A2</option>
            <option value="A1 A2">A1 and A2</option>
            <option value="A0 A1 A2">all three</option>
          </List>
        </label>
        <label>
          What does a scan print with this backpack alone on the bus?
          <TextBox value={text} placeholder="such as 39 or 0x27" onChange={(e) => setText(e.target.value)} />
        </label>
      </div>
      {error && <p role="alert">{reason(error)}</p>}
      {data && (
        <p role="status">
          <b>{data.says}</b> {data.next}
        </p>
      )}
    </details>
  );
}
