import Button from "@mui/material/Button";
import type { ReactNode } from "react";
import { useBench } from "../../work/BenchContext";
import { reason } from "../../work/reason";
import css from "./Trouble.module.css";

interface Props {
  /** Why there is no answer; nothing is said where there is no such. */
  trouble: unknown;
  /** What was computed before is in sight. */
  stale: boolean;
  again: () => void;
  /** Further ways back. */
  children?: ReactNode;
}

/** Why a view has no answer to how the bench stands, and the ways back. */
export function Trouble({ trouble, stale, again, children }: Props) {
  const { undo, canUndo } = useBench();
  if (!trouble) return null;
  return (
    <section className={css.trouble} role="alert">
      <p>
        <strong>This could not be worked out:</strong> {reason(trouble)}.{" "}
        {stale ? "What is in sight is how it stood before." : "Your bench is saved as it is."}
      </p>
      <div>
        <Button variant="contained" disabled={!canUndo} onClick={undo}>
          Undo the last change
        </Button>
        {children}
        <Button variant="outlined" popoverTarget="states">
          Earlier states
        </Button>
        <Button variant="outlined" onClick={again}>
          Try again
        </Button>
      </div>
    </section>
  );
}
