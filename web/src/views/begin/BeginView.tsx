import Button from "@mui/material/Button";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useNavigate } from "react-router-dom";
import { client, unwrap, type Beginning } from "../../api/client";
import { benchesQuery, catalogQuery, ownHostsQuery } from "../../api/queries";
import { Bell } from "../../ui/Bell";
import { ThemeChoice } from "../../ui/ThemeChoice";
import { linkKinds } from "../../work/linkKinds";
import { reason } from "../../work/reason";
import { HelpHost, HelpLink, HelpModule } from "./Help";
import { BoardPicture, LinkPicture, ModulePicture } from "./Pictures";
import { List } from "../../ui/List";
import css from "./BeginView.module.css";

const sizes = ["8x1", "8x2", "16x1", "16x2", "16x4", "20x2", "20x4", "24x2", "40x2", "40x4"];
const kinds = ["backpack", "shift", "parallel4", "parallel8"] as const;
const glows = [
  { technology: "lcd", tint: "green", title: "Dark letters on a lit or grey ground" },
  { technology: "lcd", tint: "blue", title: "Light letters on blue" },
  { technology: "vfd", tint: "teal", title: "It glows by itself, blue-green" },
] as const;

/** Boards that are not in the table, with the millivolts of their logic where those are not the usual ones. */
const others = new Map([
  ["Another board, 5 V", undefined],
  ["Another board, 3.3 V", 3300],
]);

/** A bench from a box of parts: which module, which host, and how they are joined. */
export default function BeginView() {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const { data: catalog } = useQuery(catalogQuery);
  const { data: kept } = useQuery(ownHostsQuery);
  const [size, setSize] = useState("16x2");
  const [glow, setGlow] = useState<number>(0);
  const [backpack, setBackpack] = useState(false);
  const [expander, setExpander] = useState<"" | "PCF8574" | "PCF8574A">("");
  const [count, setCount] = useState("1");
  const [host, setHost] = useState("");
  const [build, setBuild] = useState("");
  const [kind, setKind] = useState<"" | (typeof kinds)[number]>("");
  useEffect(() => {
    document.title = "A new bench · Slate Bell";
  }, []);
  const look = glows[glow] ?? glows[0];
  const own = kept?.find((h) => h.part === host);
  const wanted: Beginning = {
    geometry: size,
    technology: look.technology,
    tint: look.tint,
    backpack: backpack || undefined,
    expander: (backpack && expander) || undefined,
    host: own ? undefined : others.has(host) ? "My board" : host || undefined,
    hostMV: own ? undefined : others.get(host),
    board: own,
    link: kind || undefined,
    build: build || undefined,
    count: Number(count) || 1,
  };
  const begin = useMutation({
    mutationFn: async () => unwrap(await client.POST("/api/benches/begin", { body: wanted })),
    onSuccess: (made) => {
      void queries.invalidateQueries({ queryKey: benchesQuery.queryKey });
      const view = wanted.build ? "scenes" : "bench";
      void navigate(`/benches/${made.id}/${made.bench.modules[0]?.id ?? ""}/${view}`);
    },
  });
  return (
    <div className={css.page}>
      <header className={css.bar}>
        <Bell />
        <h1>A new bench</h1>
        <span className={css.gap} />
        <Link to="/benches" className="quiet">
          All benches
        </Link>
        <ThemeChoice />
      </header>
      <main className={css.main}>
        <form
          className={css.questions}
          onSubmit={(e) => {
            e.preventDefault();
            begin.mutate();
          }}
        >
          <section aria-label="Which module">
            <h2>
              <span className={css.number}>1</span> Which module lies on the table?
            </h2>
            <div className={css.sizes} role="radiogroup" aria-label="Size, columns × rows">
              {sizes.map((s) => (
                <label key={s} className={css.card}>
                  <input
                    type="radio"
                    name="size"
                    checked={size === s}
                    onChange={() => {
                      setSize(s);
                      if (!catalog?.builds.find((b) => b.id === build)?.sizes.includes(s)) setBuild("");
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
                  <input type="radio" name="glow" checked={glow === i} onChange={() => setGlow(i)} />
                  <ModulePicture size="8x1" tint={g.tint} />
                  <span>{g.title}</span>
                </label>
              ))}
            </div>
            <div className={css.line}>
              <label className={css.check}>
                <input type="checkbox" checked={backpack} onChange={(e) => setBackpack(e.target.checked)} />A small
                board with a chip is on its back
              </label>
              {backpack && (
                <label className={css.check}>
                  its chip says
                  <List value={expander} onChange={(e) => setExpander(e.target.value as typeof expander)}>
                    <option value="">I cannot read it</option>
                    <option value="PCF8574">8574, then no A</option>
                    <option value="PCF8574A">8574A</option>
                  </List>
                </label>
              )}
              <label className={css.check}>
                How many of them
                <input
                  className="entry"
                  size={3}
                  inputMode="numeric"
                  value={count}
                  onChange={(e) => setCount(e.target.value.replace(/\D/g, ""))}
                />
              </label>
            </div>
            <HelpModule />
          </section>
          <section aria-label="Which host">
            <h2>
              <span className={css.number}>2</span> Which board drives it?
            </h2>
            <div className={css.hosts} role="radiogroup" aria-label="Host">
              {catalog?.hosts.map((h) => (
                <label key={h.part} className={css.card}>
                  <input type="radio" name="host" checked={host === h.part} onChange={() => setHost(h.part)} />
                  <BoardPicture part={h.part} />
                  <span>{h.title}</span>
                </label>
              ))}
              {[...(kept ?? []).map((h) => h.part ?? ""), ...others.keys()].map((other) => (
                <label key={other} className={css.card}>
                  <input type="radio" name="host" checked={host === other} onChange={() => setHost(other)} />
                  <BoardPicture part="" />
                  <span>{other}</span>
                </label>
              ))}
              <label className={css.card}>
                <input type="radio" name="host" checked={host === ""} onChange={() => setHost("")} />
                <BoardPicture part="" />
                <span>I do not know yet</span>
              </label>
            </div>
            <HelpHost hosts={catalog?.hosts ?? []} />
          </section>
          <section aria-label="How they are joined">
            <h2>
              <span className={css.number}>3</span> How are they to be joined?
            </h2>
            <div className={css.links} role="radiogroup" aria-label="Link">
              <label className={css.card}>
                <input type="radio" name="link" checked={kind === ""} onChange={() => setKind("")} />
                <LinkPicture kind="" />
                <span>Recommend one</span>
              </label>
              {kinds.map((k) => (
                <label key={k} className={css.card}>
                  <input type="radio" name="link" checked={kind === k} onChange={() => setKind(k)} />
                  <LinkPicture kind={k} />
                  <span>{linkKinds[k]}</span>
                </label>
              ))}
            </div>
            <HelpLink />
          </section>
          <section aria-label="What it shows">
            <h2>
              <span className={css.number}>4</span> What is it to show?
            </h2>
            <div className={css.builds} role="radiogroup" aria-label="A build to begin from">
              <label className={css.card}>
                <input type="radio" name="build" checked={build === ""} onChange={() => setBuild("")} />
                <b>Nothing yet</b>
                <small>I compose it myself.</small>
              </label>
              {catalog?.builds.map((b) => {
                const fits = b.sizes.includes(size);
                return (
                  <label key={b.id} className={css.card} data-off={!fits || undefined}>
                    <input
                      type="radio"
                      name="build"
                      checked={build === b.id}
                      disabled={!fits}
                      onChange={() => setBuild(b.id)}
                    />
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
          <footer className={css.end}>
            <Button type="submit" variant="contained" size="large" disabled={begin.isPending}>
              Lay the table
            </Button>
            <p>
              {count || 1} × {size.replace("x", " × ")} on {host || "a board to be named"},{" "}
              {kind ? linkKinds[kind] : backpack ? "by its backpack" : "in parallel where the pins are there"}.
              Everything can be changed later. Next:{" "}
              {build
                ? "see it play, then wire it by the list"
                : `look at the bench${kind === "backpack" || backpack ? ", scan the bus" : ""}, then compose`}
              .
            </p>
            {begin.error && <p role="alert">{reason(begin.error)}</p>}
          </footer>
        </form>
      </main>
    </div>
  );
}
