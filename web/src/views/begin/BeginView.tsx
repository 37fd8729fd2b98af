import Button from "@mui/material/Button";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router-dom";
import { client, unwrap, type Beginning } from "../../api/client";
import { benchesQuery, catalogQuery, ownHostsQuery } from "../../api/queries";
import { Page } from "../../ui/Page";
import { Quiet } from "../../ui/Quiet";
import { linkKinds } from "../../work/linkKinds";
import { reason } from "../../work/reason";
import { lookOf, nothing, others, type Given } from "./given";
import { OtherWays } from "./OtherWays";
import { HowJoined, WhatItShows, WhichHost, WhichModule } from "./Questions";
import css from "./BeginView.module.css";

/** A bench from a box of parts: which module, which host, and how they are joined. */
export default function BeginView() {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const { data: catalog } = useQuery(catalogQuery);
  const { data: kept } = useQuery(ownHostsQuery);
  const [given, setGiven] = useState<Given>(nothing);
  const give = (next: Partial<Given>) => setGiven((g) => ({ ...g, ...next }));
  const { size, backpack, expander, count, host, build, kind } = given;
  const look = lookOf(given);
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
    <Page
      manual="begin"
      heading="A new bench"
      aside={
        <Quiet component={Link} to="/benches">
          All benches
        </Quiet>
      }
    >
      <OtherWays />
      <form
        className={css.questions}
        onSubmit={(e) => {
          e.preventDefault();
          begin.mutate();
        }}
      >
        <WhichModule given={given} give={give} builds={catalog?.builds} />
        <WhichHost given={given} give={give} hosts={catalog?.hosts ?? []} kept={kept ?? []} />
        <HowJoined given={given} give={give} />
        <WhatItShows given={given} give={give} builds={catalog?.builds ?? []} />
        <footer className={css.end}>
          <Button type="submit" variant="contained" size="large" disabled={begin.isPending}>
            Lay the table
          </Button>
          <p>
            {count || 1} × {size.replace("x", " × ")} on {host || "a board to be named"},{" "}
            {kind ? linkKinds[kind] : backpack ? "by its backpack" : "in parallel where the pins are there"}. Everything
            can be changed later. Next:{" "}
            {build
              ? "see it play, then wire it by the list"
              : `look at the bench${kind === "backpack" || backpack ? ", scan the bus" : ""}, then compose`}
            .
          </p>
          {begin.error && <p role="alert">{reason(begin.error)}</p>}
        </footer>
      </form>
    </Page>
  );
}
