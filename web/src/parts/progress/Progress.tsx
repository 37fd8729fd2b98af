import LinearProgress from "@mui/material/LinearProgress";
import type { ReactNode } from "react";
import css from "./Progress.module.css";

interface Props {
  doing: string;
  done: number;
  /** How many have to be; 0 where that is not known. */
  of: number;
  /** What can be done about it. */
  children?: ReactNode;
}

/** How far something has come that takes long. */
export function Progress({ doing, done, of, children }: Props) {
  return (
    <div className={css.working} role="status" aria-live="off">
      <span>
        {doing}… {of > 0 && <b>{`${done.toLocaleString("en")} of ${of.toLocaleString("en")}`}</b>}
      </span>
      <LinearProgress
        aria-label={doing}
        variant={of > 0 ? "determinate" : "indeterminate"}
        value={of > 0 ? (100 * done) / of : undefined}
      />
      {children}
    </div>
  );
}
