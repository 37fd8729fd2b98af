import type { RunResult, Step } from "../api/client";
import { Copy } from "../ui/Copy";
import { binary, hex, time } from "../ui/numbers";
import { Wire } from "./StepList";
import css from "./StepCard.module.css";

/** One step in full. */
export function StepCard({ step, program }: { step: Step; program: RunResult["program"] }) {
  const value = step.value;
  return (
    <section className={css.card} aria-label={`Step ${step.index + 1}`}>
      <h2>Step {step.index + 1}</h2>
      <p>{step.meaning}</p>
      <dl>
        {value !== undefined && (
          <>
            <dt>Byte</dt>
            <dd>
              <Copy what="the byte" text={hex(value)}>
                <code>
                  {hex(value)} = {value}
                </code>
              </Copy>
            </dd>
            <dt>Bits</dt>
            <dd>
              <code>{binary(value)}</code>, RS {step.rs}
              {step.half && ", only the high nibble is sent"}
            </dd>
          </>
        )}
        {step.wire.length > 0 && (
          <>
            <dt>Wire</dt>
            <dd>
              <Copy what="the wire bytes" text={step.wire.join(" ")}>
                <code>
                  <Wire step={step} address={program.addressByte} />
                </code>
              </Copy>
            </dd>
            <dt>Takes</dt>
            <dd>{time(step.wireUs)} on the wire</dd>
          </>
        )}
        {step.waitUs > 0 && (
          <>
            <dt>Wait</dt>
            <dd>
              {time(step.waitUs)},{" "}
              {step.pauseUs > 0 ? `of which the host adds ${time(step.pauseUs)}` : "passed while the next bytes travel"}
            </dd>
          </>
        )}
      </dl>
    </section>
  );
}
