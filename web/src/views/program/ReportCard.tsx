import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { reportOf } from "../../api/program";
import { benchesQuery } from "../../api/queries";
import { Check } from "../../ui/Check";
import { Icon } from "../../ui/Icon";
import css from "./ProgramView.module.css";

/** A report for somebody who helps; benches go into it that are ticked. */
export function ReportCard() {
  const { data: benches } = useQuery({ ...benchesQuery, staleTime: 0 });
  const [added, setAdded] = useState<ReadonlySet<number>>(new Set());
  const toggle = (id: number) =>
    setAdded((before) => {
      const next = new Set(before);
      if (!next.delete(id)) next.add(id);
      return next;
    });
  return (
    <section aria-label="Report" className={css.card}>
      <h2>A report to send</h2>
      <p>
        What stands beside this, and the end of the log, in a ZIP archive for somebody who helps. No bench is in it
        {benches && benches.length > 0 ? " but those that you tick:" : "."}
      </p>
      {benches && benches.length > 0 && (
        <ul className={css.benches}>
          {benches.map((b) => (
            <li key={b.id}>
              <Check checked={added.has(b.id)} onChange={() => toggle(b.id)}>
                {b.name || "Unnamed bench"}
              </Check>
            </li>
          ))}
        </ul>
      )}
      <div>
        <Button variant="outlined" href={reportOf([...added])} download startIcon={<Icon name="down" size={17} />}>
          Save the report
        </Button>
      </div>
    </section>
  );
}
