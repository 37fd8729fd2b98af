import { useQuery } from "@tanstack/react-query";
import { linksQuery } from "../../api/queries";
import { useBench } from "../../work/BenchContext";
import { linkKinds } from "../../work/linkKinds";
import { time } from "../../ui/numbers";
import css from "./LinkCosts.module.css";

/** What this very screen costs over each kind of link. */
export function LinkCosts() {
  const { module, setup } = useBench();
  const { data: costs } = useQuery(linksQuery(setup));
  if (!costs) return null;
  return (
    <table className={css.costs} aria-label="Links compared">
      <thead>
        <tr>
          <th scope="col">This screen over</th>
          <th scope="col">Host pins</th>
          <th scope="col">Wire time</th>
        </tr>
      </thead>
      <tbody>
        {costs.map((c) => (
          <tr key={c.kind} aria-current={c.kind === module.link.kind || undefined} title={c.hostPins.join(", ")}>
            <th scope="row">{linkKinds[c.kind]}</th>
            <td>{c.hostPins.length}</td>
            <td>{time(c.wireUs)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
