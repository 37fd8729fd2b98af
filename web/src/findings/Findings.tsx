import Button from "@mui/material/Button";
import type { Finding, Module, Remedy } from "../api/client";
import { useBench } from "../bench/BenchContext";
import css from "./Findings.module.css";

const words = { error: "Wrong", warning: "At risk", note: "Note" };

interface Props {
  findings: Finding[];
  onStep: (step: number) => void;
}

/** What was found, worst first, with why, what to do, and changes that do it. */
export function Findings({ findings, onStep }: Props) {
  const { changeModule } = useBench();
  return (
    <section className={css.findings} aria-label="Findings">
      <h2>Findings</h2>
      {findings.length === 0 && (
        <p className={css.none}>
          None: the glass shows the screen as it was composed, and no limit of the data sheet is broken.
        </p>
      )}
      <ul>
        {findings.map((f, i) => {
          const step = f.step;
          return (
            <li key={i} data-severity={f.severity} data-code={f.code}>
              <p>
                <b className={css.severity}>{words[f.severity]}</b> {f.what}
              </p>
              {f.why && <p className={css.why}>{f.why}</p>}
              {f.fix && <p className={css.why}>{f.fix}</p>}
              <div className={css.actions}>
                {(f.remedies ?? []).map((r) => (
                  <Button
                    key={r.label}
                    size="small"
                    variant="outlined"
                    onClick={() => changeModule((m) => remedied(m, r))}
                  >
                    {r.label}
                  </Button>
                ))}
                {step !== undefined && (
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

/** The module with a remedy taken up: the screen's rows and, where it says so, a glyph in its slot. */
function remedied(m: Module, { rows, glyph }: Remedy): Module {
  const glyphs = glyph ? [...(m.glyphs ?? []).filter((g) => g.slot !== glyph.slot), glyph] : m.glyphs;
  return { ...m, glyphs, screen: { ...m.screen, rows } };
}
