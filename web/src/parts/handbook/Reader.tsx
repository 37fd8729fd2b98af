import Input from "@mui/material/Input";
import { useEffect, useRef, useState, type ReactNode } from "react";
import { Quiet } from "../../ui/Quiet";
import { Nodes } from "./Nodes";
import { PageLink } from "./PageLink";
import { CONTENTS, pages, search } from "./pages";
import css from "./Handbook.module.css";

interface Props {
  /** Name of the page that is read. */
  page: string;
  go: (page: string) => void;
  /** Beside the search. */
  acts?: ReactNode;
}

/** A page of the handbook, with its contents and a search over all of them. */
export function Reader({ page, go, acts }: Props) {
  const [asked, setAsked] = useState("");
  const top = useRef<HTMLHeadingElement>(null);
  const results = useRef<HTMLUListElement>(null);
  const read = pages.get(page);
  const hits = search(asked);
  const open = (name: string) => {
    setAsked("");
    go(name);
  };
  useEffect(() => {
    void top.current?.scrollIntoView({ block: "nearest" });
  }, [page]);
  return (
    <div className={css.reader}>
      <div className={css.bar} role="search">
        <Quiet size="small" disabled={page === CONTENTS && asked === ""} onClick={() => open(CONTENTS)}>
          Contents
        </Quiet>
        <Input
          type="search"
          inputProps={{ "aria-label": "Search the handbook", maxLength: 80 }}
          placeholder="Search"
          value={asked}
          onChange={(e) => setAsked(e.target.value)}
          onKeyDown={(e) => {
            if (e.key === "Enter" && hits[0]) open(hits[0].name);
            if (e.key === "ArrowDown") results.current?.querySelector("a")?.focus();
            if (e.key === "Escape" && asked !== "") {
              e.stopPropagation();
              setAsked("");
            }
          }}
        />
        {acts}
      </div>
      {asked.trim() !== "" ? (
        <ul className={css.hits} ref={results} aria-label="Pages found">
          {hits.length === 0 && <li>No page has {asked.trim().includes(" ") ? "all these words" : "this word"}.</li>}
          {hits.map((h) => (
            <li key={h.name}>
              <PageLink to={h.name} go={open}>
                {h.title}
              </PageLink>
              <p>{h.around}</p>
            </li>
          ))}
        </ul>
      ) : (
        <article className={css.page} data-page={page}>
          <h2 ref={top} tabIndex={-1}>
            {read?.title ?? "There is no such page"}
          </h2>
          {read ? <Nodes nodes={read.nodes} go={open} /> : <p>The contents list all pages.</p>}
        </article>
      )}
    </div>
  );
}
