import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { planQuery } from "../../api/queries";
import { useBench } from "../../work/BenchContext";
import { linkKinds } from "../../work/linkKinds";
import { planOf } from "../../work/setup";
import css from "./hand.module.css";

/** What one looks up beside the board of a module, and its card for the wall. */
export default function Card() {
  const { id, bench, module } = useBench();
  const { data: plan } = useQuery(planQuery(planOf(bench)));
  const index = bench.modules.indexOf(module);
  const node = plan?.nodes.find((n) => n.module === index);
  const pins = Object.entries(module.link.pins ?? {});
  return (
    <section className={css.view} aria-label="Card">
      <table className={css.facts}>
        <caption className="unseen">{module.name}</caption>
        <tbody>
          <tr>
            <th scope="row">Module</th>
            <td>
              {module.display.geometry}, {module.display.technology.toUpperCase()}
            </td>
          </tr>
          <tr>
            <th scope="row">Link</th>
            <td>{linkKinds[module.link.kind]}</td>
          </tr>
          {node && (
            <tr>
              <th scope="row">Address</th>
              <td>
                <code>{node.address.hex}</code> ({node.address.decimal})
                {node.pads && (
                  <>
                    <br />
                    {node.pads.map((closed, i) => `A${i} ${closed ? "closed" : "open"}`).join(", ")}
                  </>
                )}
              </td>
            </tr>
          )}
          {node && plan && (
            <tr>
              <th scope="row">Bus</th>
              <td>
                SDA <code>{plan.host.sda}</code>, SCL <code>{plan.host.scl}</code>
              </td>
            </tr>
          )}
          {pins.map(([line, pin]) => (
            <tr key={line}>
              <th scope="row">{line}</th>
              <td>
                <code>{pin}</code>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <Button
        className={css.big}
        variant="contained"
        component="a"
        href={`/api/benches/${id}/modules/${module.id}/card`}
        target="_blank"
        rel="noopener"
      >
        Open the card for the wall
      </Button>
      <p className={css.step}>It has the header, memory, glyphs, codes and the bytes of the initialisation.</p>
    </section>
  );
}
