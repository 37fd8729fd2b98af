import LinearProgress from "@mui/material/LinearProgress";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { progressQuery } from "../../api/progress";
import css from "./Working.module.css";

interface Props {
  /** The name of the request that is followed. */
  watch: string;
  /** What is said before it tells of itself. */
  says: string;
}

/** How long nothing is said, in ms: most answers are there before. */
const PATIENCE = 300;

/** How far a request has come that takes long; it asks for as long as it stands on the page. */
export function Working({ watch, says }: Props) {
  const [long, setLong] = useState(false);
  useEffect(() => {
    const timer = setTimeout(() => setLong(true), PATIENCE);
    return () => clearTimeout(timer);
  }, []);
  const { data } = useQuery({ ...progressQuery(watch), enabled: long });
  if (!long) return null;
  const known = data && data.of > 0;
  const doing = known ? data.doing : says;
  return (
    <div className={css.working} role="status" aria-live="off">
      <span>
        {doing}… {known && <b>{`${data.done.toLocaleString("en")} of ${data.of.toLocaleString("en")}`}</b>}
      </span>
      <LinearProgress
        aria-label={doing}
        variant={known ? "determinate" : "indeterminate"}
        value={known ? (100 * data.done) / data.of : undefined}
      />
    </div>
  );
}
