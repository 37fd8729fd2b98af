import Button from "@mui/material/Button";
import { memo } from "react";
import type { RunResult } from "../../api/client";
import { Copy } from "../../ui/Copy";
import { Icon } from "../../ui/Icon";
import { time } from "../../ui/numbers";
import { Term } from "../../ui/Term";
import css from "./ProgramBar.module.css";

/** Totals of the program, and ways to take it along. */
export const ProgramBar = memo(function ProgramBar({ run }: { run: RunResult }) {
  const { totals } = run.program;
  const words = run.program.link === "backpack" ? "expander bytes" : "pulses of E";
  const readHex = async () => (await fetch(`/api/runs/${run.id}/wire.hex`)).text();
  return (
    <div className={css.bar}>
      <h2>Bytes</h2>
      <p className={css.totals}>
        <span>
          <b>{totals.operations}</b> <Term of="operation">operations</Term>
        </span>
        <span>
          <b>{totals.wireWords}</b> {words}
        </span>
        {totals.transactions > 0 && (
          <span>
            <b>{totals.transactions}</b> I²C transactions
          </span>
        )}
        <span>
          <b>{time(totals.wireUs)}</b> on the wire
        </span>
        <span>
          done <b>{time(totals.finishUs)}</b> after power-up
        </span>
      </p>
      <Copy what="the wire bytes as hexadecimal, a step a line" text={readHex}>
        <Icon name="copy" size={17} /> Hex
      </Copy>
      <Button size="small" href={`/api/runs/${run.id}/steps.csv`} download startIcon={<Icon name="down" size={17} />}>
        CSV
      </Button>
    </div>
  );
});
