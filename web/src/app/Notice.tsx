import Button from "@mui/material/Button";
import { Link, Navigate } from "react-router-dom";
import { ApiError } from "../api/client";
import { reason } from "../work/reason";
import css from "./Notice.module.css";

interface Props {
  what: string;
  why: unknown;
  again: () => void;
}

/** A page that says why there is nothing to show yet, and goes on by itself where it can. */
export function Notice({ what, why, again }: Props) {
  if (!why) return <Opening />;
  const refused = why instanceof ApiError;
  return (
    <main className={css.notice}>
      <h1>{what}</h1>
      <p role="alert">{reason(why)}</p>
      {refused ? (
        <p>
          <Button variant="contained" onClick={again}>
            Try again
          </Button>{" "}
          <Button component={Link} to="/benches">
            All benches
          </Button>
        </p>
      ) : (
        <p>It is asked again until it answers.</p>
      )}
    </main>
  );
}

/** What is to be seen until there is more. */
export function Opening() {
  return (
    <main className={css.notice}>
      <h1>Opening…</h1>
    </main>
  );
}

/** Leads to another address, and shows something until it is reached. */
export function Lead({ to }: { to: string }) {
  return (
    <>
      <Navigate to={to} replace />
      <Opening />
    </>
  );
}
