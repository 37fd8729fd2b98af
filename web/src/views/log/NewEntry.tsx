import Button from "@mui/material/Button";
import { useRef, useState } from "react";
import type { Entry } from "../../api/faults";
import { useBench } from "../../work/BenchContext";
import { reason } from "../../work/reason";
import { useNote } from "../../work/useLog";
import { own, titleOf } from "./kinds";
import { pictureOf } from "../../ui/pictures";
import { List } from "../../ui/List";
import { pressed } from "../../ui/shortcuts";
import { Quiet } from "../../ui/Quiet";
import { TextBox } from "../../ui/TextBox";
import css from "./LogView.module.css";

/** What pictures are made smaller to before they are kept. */
const KEPT = { side: 1600, most: 1 << 20 };

/** An entry written by hand, with pictures. */
export function NewEntry({ onAdded }: { onAdded: () => void }) {
  const { module } = useBench();
  const note = useNote();
  const [kind, setKind] = useState<Entry["kind"]>("note");
  const [text, setText] = useState("");
  const [pictures, setPictures] = useState<NonNullable<Entry["pictures"]>>([]);
  const [refused, setRefused] = useState<string>();
  const file = useRef<HTMLInputElement>(null);
  const add = async () => {
    try {
      await note({ kind, text, pictures: pictures.length > 0 ? pictures : undefined });
      setText("");
      setPictures([]);
      setRefused(undefined);
      onAdded();
    } catch (e) {
      setRefused(reason(e)); // what was typed stays
    }
  };
  const take = async (files: FileList | null) => {
    for (const f of files ?? []) {
      try {
        const p = await pictureOf(f, KEPT);
        setPictures((list) => (list.length < 4 ? [...list, p] : list));
        setRefused(undefined);
      } catch (e) {
        setRefused(e instanceof Error ? e.message : String(e));
      }
    }
    if (file.current) file.current.value = "";
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
          onChange={(e) => void take(e.target.files)}
        />
        <Button variant="contained" disabled={text.trim() === "" && pictures.length === 0} onClick={() => void add()}>
          Write
        </Button>
        <Button variant="outlined" disabled={pictures.length >= 4} onClick={() => file.current?.click()}>
          Add a picture
        </Button>
      </div>
      <p className={css.hint}>Ctrl+Enter writes it.</p>
    </section>
  );
}
