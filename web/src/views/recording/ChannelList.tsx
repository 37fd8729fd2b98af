import { memo } from "react";
import type { Channel, Reading } from "../../api/recordings";
import { List } from "../../ui/List";
import { Term } from "../../ui/Term";
import { Quiet } from "../../ui/Quiet";
import { linkKinds } from "../../work/linkKinds";
import { HEAD, LANE, WORDS, wordsOf } from "./lanes";
import css from "./ChannelList.module.css";

interface Props {
  reading: Reading;
  shown: number[];
  lines: Record<string, number>;
  setLines: (lines: Record<string, number>) => void;
}

/** The channels by name, each with the line that it carries: how sure that is, and another where somebody knows better. */
export const ChannelList = memo(function ChannelList({ reading, shown, lines, setLines }: Props) {
  const change = (channel: number, role: string) => {
    const next = Object.fromEntries(Object.entries(lines).filter(([r, c]) => c !== channel && r !== role));
    if (role !== "") next[role] = channel;
    setLines(next);
  };
  return (
    <ul className={css.list} aria-label="Channels">
      <li className={css.head} style={{ height: HEAD }}>
        <span>
          <Term of="channel">Channel</Term>
        </span>
        <span>Line</span>
      </li>
      {wordsOf(reading).map((w) => (
        <li key={w} className={css.word} style={{ height: WORDS }}>
          {w}
        </li>
      ))}
      {shown.map((i) => {
        const c = reading.channels[i];
        if (!c) return null;
        return (
          <li key={i} style={{ height: LANE }} data-line={c.line ?? undefined} title={why(c)}>
            <span className={css.name}>{c.name}</span>
            {c.line && <span className={css.sure}>{c.given ? "said" : `${Math.floor(c.sure * 100)} %`}</span>}
            <List
              aria-label={`Line of ${c.name}`}
              className={`plain ${css.role}`}
              value={c.line ?? ""}
              onChange={(e) => change(i, e.target.value)}
            >
              <option value="">–</option>
              {reading.roles.map((r) => (
                <option key={r} value={r}>
                  {r === "RW" ? "R/W" : r}
                </option>
              ))}
            </List>
          </li>
        );
      })}
    </ul>
  );
});

/** Why a channel is taken for its line. */
function why(c: Channel): string {
  if (!c.moves) return `${c.name} never changes`;
  if (!c.line) return `${c.name} is not needed to explain the traffic`;
  const upside = c.inverted ? "; it is upside down, as behind a transistor" : "";
  if (c.given) return `${c.name} carries ${c.line}, as you said${upside}`;
  return `${c.name} carries ${c.line}: of all ways to give the channels their lines, those in which it does explain ${Math.floor(c.sure * 100)} % of the traffic’s likelihood (lawful instructions, an initialisation, text)${upside}`;
}

/** What speaks for the lines that were found, and other ways to read the recording. */
export const Because = memo(function Because({ reading, setLines }: Pick<Props, "reading" | "setLines">) {
  return (
    <div className={css.because}>
      <p>{reading.because}</p>
      {reading.others.map((o) => (
        <p key={o.says}>
          {o.share < 0.01 ? "Less than 1" : Math.round(o.share * 100)} % likely: {linkKinds[o.link]}, {o.says}{" "}
          <Quiet size="small" onClick={() => setLines(o.lines)}>
            Read it so
          </Quiet>
        </p>
      ))}
    </div>
  );
});
