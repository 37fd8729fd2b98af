import Button from "@mui/material/Button";
import { memo, useState } from "react";
import { useNavigate } from "react-router-dom";
import { importBench } from "../../api/client";
import { fileOf, files, learntBench, type Reading } from "../../api/recordings";
import { Copy } from "../../ui/Copy";
import { Quiet } from "../../ui/Quiet";
import { linkKinds } from "../../work/linkKinds";
import { reason } from "../../work/reason";
import type { Recording } from "./useRecording";
import { lasting } from "./time";
import css from "./Said.module.css";

/** What the recording is of, in a line, and what can be made of it. */
export const Said = memo(function Said({ recording, reading }: { recording: Recording; reading: Reading }) {
  const navigate = useNavigate();
  const [refused, setRefused] = useState<string>();
  const [taking, setTaking] = useState(false);
  const misread = reading.findings.some((f) => f.code === "capture.halves"); // addresses are not what was meant
  const takeOver = async () => {
    setTaking(true);
    try {
      const made = await importBench(JSON.stringify(await learntBench(reading.id)));
      void navigate(`/benches/${made.id}/${made.bench.modules[0]?.id ?? ""}/screens`);
    } catch (e) {
      setRefused(reason(e));
      setTaking(false);
    }
  };
  return (
    <header className={css.said}>
      <div className={css.what}>
        <h2 title={reading.name}>{reading.name}</h2>
        {reading.found ? (
          <p>
            <b>{reading.link && linkKinds[reading.link]}</b>
            {reading.address && (
              <>
                {" · "}
                <Copy text={reading.address.hex} what="the address">
                  <code>{reading.address.hex}</code>
                </Copy>
              </>
            )}
            {reading.clockHz ? ` · ${(reading.clockHz / 1000).toPrecision(3)} kHz` : ""}
            {reading.mapping && (
              <>
                {" · "}
                <Copy text={reading.mapping} what="the mapping of the outputs">
                  <code>{reading.mapping}</code>
                </Copy>
              </>
            )}
            {` · ${reading.operations.toLocaleString("en")} operations in ${lasting(reading.endsNs)} · played into a ${reading.geometry}`}
          </p>
        ) : (
          <p role="alert">{reading.why}</p>
        )}
        {refused && <p role="alert">{refused}</p>}
      </div>
      <div className={css.acts}>
        {reading.found && reading.likeliest !== reading.geometry && !misread && (
          <Quiet
            size="small"
            title="By the addresses that are written"
            onClick={() => recording.setSize(reading.likeliest)}
          >
            More likely a {reading.likeliest}: play it into one
          </Quiet>
        )}
        {reading.found && (
          <Button
            variant="contained"
            size="small"
            disabled={taking}
            title="Link, mapping, address, glyphs and the last screen become a bench of its own"
            onClick={() => void takeOver()}
          >
            Take it over as a bench
          </Button>
        )}
        {reading.found && (
          <>
            <Quiet size="small" popoverTarget="recording-files">
              Save as
            </Quiet>
            <ul id="recording-files" popover="auto" className={css.files}>
              {files.map((f) => (
                <li key={f.path}>
                  <a href={fileOf(reading.id, f.path)} download>
                    {f.title}
                  </a>
                </li>
              ))}
            </ul>
          </>
        )}
        <Quiet size="small" onClick={recording.leave}>
          Another recording
        </Quiet>
      </div>
    </header>
  );
});
