import type { Read, RunResult, Step } from "../../api/client";
import { Copy } from "../../ui/Copy";
import { binary, hex, time } from "../../ui/numbers";
import { placed, useBase } from "../../ui/places";
import { Wire } from "./StepList";
import css from "./StepCard.module.css";

interface Props {
  step: Step;
  program: RunResult["program"];
  /** What the step read; undefined for one that writes. */
  read: Read | undefined;
}

/** One step in full. */
export function StepCard({ step, program, read }: Props) {
  const value = read?.value ?? step.value;
  const base = useBase();
  return (
    <section className={css.card} aria-label={`Step ${step.index + 1}`}>
      <h2>Step {step.index + 1}</h2>
      <p>{read?.meaning ?? placed(step.meaning, step.places, base)}</p>
      <dl>
        {value !== undefined && (
          <>
            <dt>{read ? "Read" : "Byte"}</dt>
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
            <dd>
              {time(step.wireUs)} on the wire
              {program.link.startsWith("parallel") &&
                (step.wire.length === 1 ? ", one pulse of E" : `, ${step.wire.length} pulses of E`)}
            </dd>
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
