import type { Schemas } from "../../api/client";
import { Check } from "../../ui/Check";
import { List } from "../../ui/List";
import { linkKinds } from "../../work/linkKinds";
import { glows, kinds, lookOf, others, sizes, type Build, type Given, type Question } from "./given";
import { HelpHost, HelpLink, HelpModule } from "./Help";
import { BoardPicture, LinkPicture, ModulePicture } from "./Pictures";
import { TextBox } from "../../ui/TextBox";
import { Dot } from "../../ui/Dot";
import css from "./BeginView.module.css";

/** The first question; a build that does not fit the size is let go. */
export function WhichModule({ given, give, builds }: Question & { builds: Build[] | undefined }) {
  const { size, glow, backpack, expander, count, build } = given;
  const look = lookOf(given);
  return (
    <section aria-label="Which module">
      <h2>
        <span className={css.number}>1</span> Which module lies on the table?
      </h2>
      <div className={css.sizes} role="radiogroup" aria-label="Size, columns × rows">
        {sizes.map((s) => (
          <label key={s} className={css.card}>
            <Dot
              name="size"
              checked={size === s}
              onChange={() => {
                const fits = builds?.find((b) => b.id === build)?.sizes.includes(s);
                give({ size: s, build: fits ? build : "" });
              }}
            />
            <ModulePicture size={s} tint={look.tint} />
            <span>{s.replace("x", " × ")}</span>
          </label>
        ))}
      </div>
      <div className={css.looks} role="radiogroup" aria-label="How it looks when lit">
        {glows.map((g, i) => (
          <label key={g.title} className={css.card}>
            <Dot name="glow" checked={glow === i} onChange={() => give({ glow: i })} />
            <ModulePicture size="8x1" tint={g.tint} />
            <span>{g.title}</span>
          </label>
        ))}
      </div>
      <div className={css.line}>
        <Check checked={backpack} onChange={(e) => give({ backpack: e.target.checked })}>
          A small board with a chip is on its back
        </Check>
        {backpack && (
          <label className={css.check}>
            its chip says
            <List value={expander} onChange={(e) => give({ expander: e.target.value as Given["expander"] })}>
              <option value="">I cannot read it</option>
              <option value="PCF8574">8574, then no A</option>
              <option value="PCF8574A">8574A</option>
            </List>
          </label>
        )}
        <label className={css.check}>
          How many of them
          <TextBox
            size={3}
            inputMode="numeric"
            value={count}
            onChange={(e) => give({ count: e.target.value.replace(/\D/g, "") })}
          />
        </label>
      </div>
      <HelpModule />
    </section>
  );
}

/** The second; hosts that were described on other benches are there too. */
export function WhichHost({
  given,
  give,
  hosts,
  kept,
}: Question & { hosts: Schemas["Catalog"]["hosts"]; kept: { part?: string }[] }) {
  const { host } = given;
  return (
    <section aria-label="Which host">
      <h2>
        <span className={css.number}>2</span> Which board drives it?
      </h2>
      <div className={css.hosts} role="radiogroup" aria-label="Host">
        {hosts.map((h) => (
          <label key={h.part} className={css.card}>
            <Dot name="host" checked={host === h.part} onChange={() => give({ host: h.part })} />
            <BoardPicture part={h.part} />
            <span>{h.title}</span>
          </label>
        ))}
        {[...kept.map((h) => h.part ?? ""), ...others.keys()].map((other) => (
          <label key={other} className={css.card}>
            <Dot name="host" checked={host === other} onChange={() => give({ host: other })} />
            <BoardPicture part="" />
            <span>{other}</span>
          </label>
        ))}
        <label className={css.card}>
          <Dot name="host" checked={host === ""} onChange={() => give({ host: "" })} />
          <BoardPicture part="" />
          <span>I do not know yet</span>
        </label>
      </div>
      <HelpHost hosts={hosts} />
    </section>
  );
}

/** The third. */
export function HowJoined({ given, give }: Question) {
  const { kind } = given;
  return (
    <section aria-label="How they are joined">
      <h2>
        <span className={css.number}>3</span> How are they to be joined?
      </h2>
      <div className={css.links} role="radiogroup" aria-label="Link">
        <label className={css.card}>
          <Dot name="link" checked={kind === ""} onChange={() => give({ kind: "" })} />
          <LinkPicture kind="" />
          <span>Recommend one</span>
        </label>
        {kinds.map((k) => (
          <label key={k} className={css.card}>
            <Dot name="link" checked={kind === k} onChange={() => give({ kind: k })} />
            <LinkPicture kind={k} />
            <span>{linkKinds[k]}</span>
          </label>
        ))}
      </div>
      <HelpLink />
    </section>
  );
}

/** The fourth: what to begin from. */
export function WhatItShows({ given, give, builds }: Question & { builds: Build[] }) {
  const { size, build } = given;
  return (
    <section aria-label="What it shows">
      <h2>
        <span className={css.number}>4</span> What is it to show?
      </h2>
      <div className={css.builds} role="radiogroup" aria-label="A build to begin from">
        <label className={css.card}>
          <Dot name="build" checked={build === ""} onChange={() => give({ build: "" })} />
          <b>Nothing yet</b>
          <small>I compose it myself.</small>
        </label>
        {builds.map((b) => {
          const fits = b.sizes.includes(size);
          return (
            <label key={b.id} className={css.card} data-off={!fits || undefined}>
              <Dot name="build" checked={build === b.id} disabled={!fits} onChange={() => give({ build: b.id })} />
              <b>{b.title}</b>
              <small>
                {fits ? b.what : `For ${b.sizes.join(", ").replaceAll("x", " × ")}.`}
                {fits && b.needs && ` Needs ${b.needs}.`}
              </small>
            </label>
          );
        })}
      </div>
    </section>
  );
}
