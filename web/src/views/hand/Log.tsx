import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useRef } from "react";
import { logQuery, pictureURL } from "../../api/faults";
import { moment } from "../../ui/numbers";
import { TextBox } from "../../ui/TextBox";
import { useBench } from "../../work/BenchContext";
import { MOST_PICTURES, useEntry } from "../../work/useEntry";
import { useKeptNotes } from "../../work/useLog";
import css from "./hand.module.css";

/** A note and a picture from beside the board, and what was written before. */
export default function Log() {
  const { id, bench, module } = useBench();
  const later = useKeptNotes(id);
  const { data: log } = useQuery(logQuery(id));
  const file = useRef<HTMLInputElement>(null);
  const { text, setText, pictures, setPictures, refused, write, take, empty } = useEntry();
  return (
    <section className={css.view} aria-label="Log">
      <div className={css.form}>
        <TextBox
          rows={3}
          maxLength={4000}
          aria-label="What you learnt"
          placeholder={`What you saw or tried at ${module.name || "this module"}`}
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
        {pictures.length > 0 && (
          <p>
            {pictures.length} {pictures.length === 1 ? "picture" : "pictures"}{" "}
            <Button variant="outlined" color="inherit" onClick={() => setPictures([])}>
              Leave out
            </Button>
          </p>
        )}
        {refused && <p role="alert">{refused}</p>}
        <input
          ref={file}
          className="unseen"
          type="file"
          accept="image/png,image/jpeg"
          capture="environment"
          tabIndex={-1}
          aria-label="Pictures"
          onChange={(e) => {
            const files = [...(e.target.files ?? [])];
            e.target.value = "";
            void take(files);
          }}
        />
        <div className={css.keys}>
          <Button className={css.big} variant="contained" disabled={empty} onClick={() => void write("note")}>
            Write
          </Button>
          <Button
            className={css.big}
            variant="outlined"
            disabled={pictures.length >= MOST_PICTURES}
            onClick={() => file.current?.click()}
          >
            Picture
          </Button>
        </div>
      </div>
      {later.length > 0 && (
        <p className={css.note} role="status">
          {later.length} {later.length === 1 ? "note waits" : "notes wait"} on this device until the desk answers.
        </p>
      )}
      <div>
        {[...later.map((l) => l.entry), ...(log?.entries ?? [])].slice(0, 60).map((e, i) => (
          <div key={e.id ?? `later ${i}`} className={css.entry}>
            <small>
              {[moment(e.at), bench.modules.find((m) => m.id === e.module)?.name ?? e.module]
                .filter(Boolean)
                .join(", ")}
              {e.id === undefined && ": not sent yet"}
            </small>
            <p>
              {e.text}
              {e.value && ` ${e.value.name} ${e.value.amount} ${e.value.unit}`}
            </p>
            {e.id !== undefined &&
              (e.pictures ?? []).map((p, n) => (
                <img
                  key={n}
                  src={pictureURL(id, e.id ?? 0, n)}
                  alt={p.name ?? `Picture ${n + 1} of this entry`}
                  style={{ maxWidth: "100%" }}
                  loading="lazy"
                />
              ))}
          </div>
        ))}
      </div>
    </section>
  );
}
