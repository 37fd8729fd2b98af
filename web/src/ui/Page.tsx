import Button from "@mui/material/Button";
import { useCallback, useEffect, type HTMLAttributes, type ReactNode } from "react";
import { Link, useNavigate } from "react-router-dom";
import { Bell } from "./Bell";
import { useShortcut } from "./shortcuts";
import { ThemeChoice } from "./ThemeChoice";
import css from "./Page.module.css";

interface Props extends HTMLAttributes<HTMLDivElement> {
  heading: string;
  /** What the browser calls the page; the heading where nothing is said. */
  called?: string;
  /** Where the bell leads; nowhere where nothing is said. */
  home?: string;
  /** Its page of the handbook, which F1 opens too. */
  manual?: string;
  /** Beside the heading. */
  acts?: ReactNode;
  /** At the other end of the bar. */
  aside?: ReactNode;
  children: ReactNode;
}

/** A page of its own, that is none of a bench: a bar with its heading, and what it is about. */
export function Page({ heading, called = heading, home, manual, acts, aside, children, ...page }: Props) {
  useEffect(() => {
    document.title = `${called} · Slate Bell`;
  }, [called]);
  const navigate = useNavigate();
  const read = useCallback(() => {
    if (manual) void navigate(`/handbook/${manual}`);
  }, [manual, navigate]);
  useShortcut("handbook", read);
  return (
    <div className={css.page} {...page}>
      <header className={css.bar}>
        {home ? (
          <Link to={home} className={css.mark} aria-label="All benches" title="All benches">
            <Bell />
          </Link>
        ) : (
          <Bell />
        )}
        <h1>{heading}</h1>
        {acts}
        <span className={css.gap} />
        {aside}
        {manual && (
          <Button component={Link} to={`/handbook/${manual}`} color="inherit" title="The handbook’s page on this (F1)">
            Handbook
          </Button>
        )}
        <ThemeChoice />
      </header>
      <main className={css.main}>{children}</main>
    </div>
  );
}
