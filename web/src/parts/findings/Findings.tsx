import Button from "@mui/material/Button";
import { useState } from "react";
import type { Finding } from "../../api/client";
import { placed, useBase } from "../../ui/places";
import { useBench } from "../../work/BenchContext";
import { Term } from "../../ui/Term";
import css from "./Findings.module.css";

const words = { error: "Wrong", warning: "At risk", note: "Note" };

interface Props {
  findings: Finding[];
  /** Goes to the step that a finding is about; absent where no run is at hand. */
  onStep?: (step: number) => void;
  /** Goes to what a finding is about, and how that is called; absent where it is in sight. */
  onPlace?: (f: Finding) => { name: string; go: () => void } | undefined;
  /** What is said where nothing was found. */
  none?: string;
  /** What they are about, where there are others on the page. */
  about?: string;
}

const nothing = "None: the glass shows the screen as it was composed, and no limit of the data sheet is broken.";

/** What was found, worst first, with why, what to do, and changes that do it. */
export function Findings({ findings, onStep, onPlace, none = nothing, about }: Props) {
  const { remedy } = useBench();
  const base = useBase();
  const [refused, setRefused] = useState<string>();
  return (
    <section className={css.findings} aria-label={about ? `Findings: ${about}` : "Findings"}>
      <h2>
        <Term of="finding">Findings</Term>
      </h2>
      {findings.length === 0 && <p className={css.none}>{none}</p>}
      {refused && <p role="alert">{refused}</p>}
      <ul>
        {findings.map((f, i) => {
          const step = f.step;
          const place = onPlace?.(f);
          return (
            <li key={i} data-severity={f.severity} data-code={f.code}>
              <p>
                <b className={css.severity}>{words[f.severity]}</b> {placed(f.what, f.places, base)}
              </p>
              {f.why && <p className={css.why}>{f.why}</p>}
              {f.fix && <p className={css.why}>{f.fix}</p>}
              <div className={css.actions}>
                {(f.remedies ?? []).map((r) => (
                  <Button key={r.label} size="small" variant="outlined" onClick={() => setRefused(remedy(r))}>
                    {placed(r.label, r.places, base)}
                  </Button>
                ))}
                {place && (
                  <Button size="small" onClick={place.go}>
                    Go to {place.name}
                  </Button>
                )}
                {step !== undefined && onStep && (
                  <Button size="small" onClick={() => onStep(step)}>
                    Show step {step + 1}
                  </Button>
                )}
              </div>
              {f.source && <p className={css.source}>{f.source}</p>}
            </li>
          );
        })}
      </ul>
    </section>
  );
}
