import Button from "@mui/material/Button";
import { useRef, useState } from "react";
import type { Entry } from "../../api/faults";
import { useBench } from "../../work/BenchContext";
import { MOST_PICTURES, useEntry } from "../../work/useEntry";
import { own, titleOf } from "./kinds";
import { List } from "../../ui/List";
import { pressed } from "../../ui/shortcuts";
import { Quiet } from "../../ui/Quiet";
import { TextBox } from "../../ui/TextBox";
import css from "./LogView.module.css";

/** An entry written by hand, with pictures. */
export function NewEntry({ onAdded }: { onAdded: () => void }) {
  const { module } = useBench();
  const [kind, setKind] = useState<Entry["kind"]>("note");
  const file = useRef<HTMLInputElement>(null);
  const { text, setText, pictures, setPictures, refused, write, take, empty } = useEntry();
  const add = async () => {
    if (await write(kind)) onAdded();
  };
  return (
    <section className={css.new} aria-label="New entry">
      <h2>Write it down</h2>
      <label>
        <span className="unseen">Kind</span>
        <List value={kind} onChange={(e) => setKind(e.target.value as Entry["kind"])}>
          {own.map((k) => (
            <option key={k} value={k}>
              {titleOf(k)}
            </option>
          ))}
        </List>{" "}
        about {module.name || "this module"}
      </label>
      <TextBox
        rows={5}
        maxLength={4000}
        aria-label="What you learnt"
        placeholder="What you saw, measured, tried or learnt"
        value={text}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => {
          if (pressed("write", e)) void add();
        }}
      />
      {pictures.length > 0 && (
        <ul>
          {pictures.map((p, i) => (
            <li key={i}>
              {p.name}{" "}
              <Quiet aria-label={`Leave out ${p.name}`} onClick={() => setPictures(pictures.filter((_, k) => k !== i))}>
                Leave out
              </Quiet>
            </li>
          ))}
        </ul>
      )}
      {refused && <p role="alert">{refused}</p>}
      <div className={css.actions}>
        <input
          ref={file}
          className="unseen"
          type="file"
          accept="image/png,image/jpeg"
          multiple
          tabIndex={-1}
          aria-label="Pictures"
          onChange={(e) => {
            const files = [...(e.target.files ?? [])];
            e.target.value = "";
            void take(files);
          }}
        />
        <Button variant="contained" disabled={empty} onClick={() => void add()}>
          Write
        </Button>
        <Button variant="outlined" disabled={pictures.length >= MOST_PICTURES} onClick={() => file.current?.click()}>
          Add a picture
        </Button>
      </div>
      <p className={css.hint}>Ctrl+Enter writes it.</p>
    </section>
  );
}
