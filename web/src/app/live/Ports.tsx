import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { connect, loaderQuery, portsQuery, type RealTable, type Resting } from "../../api/realTable";
import { Choice } from "../../ui/Choice";
import { Quiet } from "../../ui/Quiet";
import { useBench } from "../../work/BenchContext";
import { reason } from "../../work/reason";
import { wiringOf } from "../../work/setup";
import { Uploader } from "./Uploader";
import css from "./Live.module.css";

interface Props {
  by: string;
  onConnect: (what: Promise<RealTable>) => void;
}

/** The ports to choose from: to connect what is at one, or to put the bridge onto it first. */
export function Ports({ onConnect, by }: Props) {
  const { id, bench } = useBench();
  const wired = wiringOf(bench);
  const { data: ports, error } = useQuery(portsQuery);
  const { data: loader } = useQuery(loaderQuery(wired));
  const [rest, setRest] = useState<Resting>("keep");
  const [loading, setLoading] = useState<string>(); // the port whose board is to get the bridge
  const join = (port: string) => onConnect(connect({ port, by, stored: id, bench: wired, rest }));
  return (
    <>
      <p className="lead">
        A bridge, uploaded once, lets this page drive the modules over the board’s USB line. Opening a port resets many
        boards, and what ran there stops.
      </p>
      {error && <p role="alert">{reason(error)}</p>}
      <ul className={css.ports}>
        {ports?.map((p) => (
          <li key={p.name}>
            <span>
              <b>{p.name}</b>
              <small>{p.what ?? "nothing is known of what is there"}</small>
            </span>
            {loader?.can && takesPrograms(p.name) && (
              <Quiet
                aria-label={`Put the bridge onto ${p.name}`}
                aria-expanded={loading === p.name}
                onClick={() => setLoading(loading === p.name ? undefined : p.name)}
              >
                Upload bridge
              </Quiet>
            )}
            <Quiet aria-label={`Connect ${p.name}`} onClick={() => join(p.name)}>
              Connect
            </Quiet>
            {loading === p.name && (
              <Uploader port={p.name} bench={wired} bauds={loader?.bauds ?? []} onDone={() => join(p.name)} />
            )}
          </li>
        ))}
      </ul>
      <Choice label="While nobody drives, its pins" value={rest} onChange={(v) => setRest(v as Resting)}>
        <option value="keep">keep their levels: the glass keeps what it shows</option>
        <option value="inputs">become inputs: nothing is driven</option>
      </Choice>
      <p className={css.note}>
        {loader?.can ? "Other ways to put the bridge onto a board: " : "No bridge on the board yet? "}
        Code has it, under “To try first”; <code>make upload</code> or your editor puts it there.
        {loader?.why && ` From this page it cannot be uploaded: ${loader.why}.`}
      </p>
    </>
  );
}

/** Whether a port may have a board behind it that takes programs: neither a stand-in nor a bus of the computer’s own. */
const takesPrograms = (port: string) => !port.startsWith("stand-in") && !port.startsWith("/dev/i2c-");
