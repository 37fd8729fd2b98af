import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { faultsQuery, type FaultChoice } from "../../api/faults";
import { Working } from "../../parts/progress/Working";
import { Choice } from "../../ui/Choice";
import { Line } from "../../ui/Line";
import { Quiet } from "../../ui/Quiet";
import { useDrop } from "../../ui/useDrop";
import { useBench } from "../../work/BenchContext";
import type { Recording } from "./useRecording";
import css from "./Drop.module.css";

/** Mistakes of a program that one can have recorded, to see how they show: of halves that are lost, one in the middle. */
function mistakesIn(faults: FaultChoice[]): FaultChoice[] {
  const lost = faults.filter((f) => f.code === "nibble.lost");
  const one = lost[Math.floor(lost.length / 2)];
  return faults.filter((f) => f.topic === "program" && (f.code !== "nibble.lost" || f === one));
}

/** Where a recording comes from: a file that is dropped or chosen, or the module's own program. */
export function Drop({ recording }: { recording: Recording }) {
  const { module, setup } = useBench();
  const { data: faults } = useQuery(faultsQuery({ ...setup, joined: undefined }));
  const mistakes = mistakesIn(faults ?? []);
  const file = useRef<HTMLInputElement>(null);
  const [fault, setFault] = useState("");
  const [rate, setRate] = useState("24 MHz");
  const [channels, setChannels] = useState("8");
  const { over, drops } = useDrop((files) => void recording.drop(files[0]));
  const { bare, busy, refused, drop, own } = recording;
  return (
    <div className={css.drop}>
      <section className={css.target} data-over={over || undefined} aria-label="A recording" {...drops}>
        <h2>Drop a recording of the wires here</h2>
        <p>
          What a logic analyser took of this module, or of anybody else’s: SDA and SCL, or E, RS and the data lines, in
          any order. It is found which channel is which.
        </p>
        <input
          ref={file}
          className="unseen"
          type="file"
          tabIndex={-1}
          aria-label="File of a recording"
          onChange={(e) => {
            void drop(e.target.files?.[0]);
            e.target.value = "";
          }}
        />
        <p>
          <Button variant="contained" onClick={() => file.current?.click()}>
            Choose a file
          </Button>
        </p>
        <p className={css.kinds}>
          Value change dump (.vcd) · zipped session · CSV of samples or of changes · list of decoded bytes · samples and
          nothing else, 8 or 16 channels (.bin). Up to 4 GB; it stays on this machine.
        </p>
        {busy && <Working watch="" says="Taking the recording" />}
        {refused && (
          <p role="alert" className={css.refused}>
            {refused}
          </p>
        )}
        {bare && (
          <form
            className={css.bare}
            onSubmit={(e) => {
              e.preventDefault();
              void drop(bare, { rate, channels: Number(channels) });
            }}
          >
            <p>
              <b>{bare.name}</b> is samples and nothing else: how fast were they taken?
            </p>
            <Line label="Rate" value={rate} onChange={setRate} />
            <Choice label="Channels" value={channels} onChange={setChannels}>
              <option value="8">8, a byte a sample</option>
              <option value="16">16, two bytes a sample</option>
            </Choice>
            <Button type="submit" variant="contained">
              Read it
            </Button>
          </form>
        )}
      </section>
      <section className={css.own} aria-label="Its own program">
        <h2>No analyser at hand?</h2>
        <p>Record what the program of {module.name || "this module"} sends, to see how a recording reads.</p>
        <Choice label="Its program" value={fault} onChange={setFault}>
          <option value="">as it is</option>
          <optgroup label="with a mistake">
            {mistakes.map((m) => (
              <option key={m.id} value={m.id}>
                {m.what}
              </option>
            ))}
          </optgroup>
        </Choice>
        <Quiet disabled={busy} onClick={() => void own(fault)}>
          Record it
        </Quiet>
        <h3>How to record</h3>
        <ol>
          <li>Join the analyser’s ground to the host’s, by a short wire.</li>
          <li>With a backpack take SDA and SCL; else E, RS and D4 to D7 at the module’s header.</li>
          <li>Sample at 1 MHz or more on a bus, at 10 MHz or more at the header.</li>
          <li>Start recording, then reset the host: the initialisation tells most.</li>
        </ol>
      </section>
    </div>
  );
}
