import { useBench } from "../work/BenchContext";
import { useOthers } from "../work/useWhereabouts";
import css from "./Company.module.css";

/** How many others have the bench open, and where they are; nothing while one is alone. */
export function Company() {
  const { bench } = useBench();
  const others = useOthers();
  if (others.length === 0) return null;
  const said = others
    .map((s) => {
      const module = bench.modules.find((m) => m.id === s.module)?.name;
      return [s.who || "the desk", s.view, module].filter(Boolean).join(", ");
    })
    .join("; ");
  return (
    <span className={css.company} title={`Also here: ${said}`} data-company={said}>
      <span aria-hidden="true">+{others.length}</span>
      <span className="unseen">Also here: {said}</span>
    </span>
  );
}
