import { useNote } from "../../work/useLog";
import { Quiet } from "../../ui/Quiet";
import css from "./Finder.module.css";

/** What was found before, at any bench, which moves the ranking; it can be begun anew. */
export function Prior({ counts }: { counts: Record<string, number> }) {
  const note = useNote();
  const list = Object.entries(counts).sort(([a, n], [b, m]) => m - n || a.localeCompare(b));
  if (list.length === 0) return null;
  return (
    <section className={css.prior} aria-label="What your log says">
      <h3>What you found before, at any of your benches, moves the ranking</h3>
      <p>
        {list.map(([code, n]) => (
          <span key={code} className={css.count}>
            <code>{code}</code> × {n}
          </span>
        ))}
        <Quiet
          title="What was found until now counts no longer; the entries stay"
          onClick={() => void note({ kind: "anew", text: "Causes count from here on.", module: "" })}
        >
          Count anew
        </Quiet>
      </p>
    </section>
  );
}
