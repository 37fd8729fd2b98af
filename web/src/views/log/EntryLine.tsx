import { useState } from "react";
import { pictureURL, rewordEntry, type Entry } from "../../api/faults";
import { reason } from "../../work/reason";
import { titleOf } from "./kinds";
import { pressed } from "../../ui/shortcuts";
import { Quiet } from "../../ui/Quiet";
import { TextBox } from "../../ui/TextBox";
import css from "./LogView.module.css";

interface Props {
  bench: number;
  entry: Entry;
  module: string | undefined;
  onChanged: () => void;
  onStrike: () => void;
}

/** One entry; its text is changed where it stands. */
export function EntryLine({ bench, entry: e, module, onChanged, onStrike }: Props) {
  const [text, setText] = useState<string>();
  const [refused, setRefused] = useState<string>();
  const [sure, setSure] = useState(false);
  const save = async () => {
    if (text === undefined || text === e.text) return setText(undefined);
    try {
      await rewordEntry(bench, e.id ?? 0, text);
      setText(undefined);
      setRefused(undefined);
      onChanged();
    } catch (err) {
      setRefused(reason(err)); // what was typed stays
    }
  };
  return (
    <li className={css.entry} data-kind={e.kind}>
      <time dateTime={e.at}>
        {new Date(e.at).toLocaleTimeString(undefined, { hour: "2-digit", minute: "2-digit", hourCycle: "h23" })}
      </time>
      <span className={css.kind} data-kind={e.kind}>
        {titleOf(e.kind)}
      </span>
      <div className={css.body}>
        {text === undefined ? (
          <p>
            {e.text}
            {e.value && (
              <b>
                {" "}
                {e.value.name} {e.value.amount} {e.value.unit}
              </b>
            )}
          </p>
        ) : (
          <TextBox
            autoFocus
            rows={2}
            maxLength={4000}
            aria-label="Text of the entry"
            value={text}
            onFocus={(ev) => ev.currentTarget.setSelectionRange(text.length, text.length)}
            onChange={(ev) => setText(ev.target.value)}
            onKeyDown={(ev) => {
              if (pressed("write", ev)) void save();
              if (ev.key === "Escape") {
                ev.stopPropagation();
                setText(undefined);
              }
            }}
          />
        )}
        {refused && <p role="alert">{refused}</p>}
        <small>
          {module}
          {(e.causes ?? []).map((c) => (
            <code key={c}> {c}</code>
          ))}
        </small>
        {(e.pictures ?? []).length > 0 && (
          <div className={css.pictures}>
            {(e.pictures ?? []).map((p, n) => (
              <a key={n} href={pictureURL(bench, e.id ?? 0, n)} target="_blank" rel="noreferrer">
                <img src={pictureURL(bench, e.id ?? 0, n)} alt={p.name} loading="lazy" />
              </a>
            ))}
          </div>
        )}
      </div>
      <span className={css.acts}>
        {text === undefined ? (
          <>
            <Quiet onClick={() => setText(e.text)}>Edit</Quiet>
            <Quiet onBlur={() => setSure(false)} onClick={() => (sure ? onStrike() : setSure(true))}>
              {sure ? "Really delete" : "Delete"}
            </Quiet>
          </>
        ) : (
          <>
            <Quiet onClick={() => void save()}>Keep</Quiet>
            <Quiet onClick={() => setText(undefined)}>Leave as it was</Quiet>
          </>
        )}
      </span>
    </li>
  );
}
