import { useMutation } from "@tanstack/react-query";
import { buildCode } from "../../api/code";
import type { Bench } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { reason } from "../../work/reason";
import { Quiet } from "../../ui/Quiet";
import css from "./BuildHere.module.css";

interface Props {
  bench: Bench;
  /** Index; -1 for all modules. */
  module: number;
}

/** Builds the program with this machine's avr-gcc, and shows what it says and what it takes. */
export function BuildHere({ bench, module }: Props) {
  const build = useMutation({ mutationFn: () => buildCode(bench, module).then((made) => ({ made, bench, module })) });
  const done = build.data;
  const old = done !== undefined && (done.bench !== bench || done.module !== module);
  return (
    <div className={css.build}>
      <Quiet disabled={build.isPending} onClick={() => build.mutate()}>
        <Icon name="code" size={16} /> {build.isPending ? "Building…" : "Build it here, with avr-gcc"}
      </Quiet>
      {build.error && <p role="alert">{reason(build.error)}</p>}
      {done && !build.isPending && (
        <div role="status" data-old={old || undefined}>
          <p data-wrong={!done.made.built || undefined}>
            {done.made.built
              ? done.made.said
                ? "Built, with warnings"
                : "Built without a warning"
              : "It does not compile: see what the compiler says"}
            {old && ", before the last change"}
          </p>
          {done.made.size && (
            <p className={css.size}>
              {done.made.size.flash.toLocaleString("en")} of {done.made.size.flashOf.toLocaleString("en")} B flash,{" "}
              {done.made.size.ram.toLocaleString("en")} of {done.made.size.ramOf.toLocaleString("en")} B RAM
            </p>
          )}
          {done.made.said && (
            <pre tabIndex={0} aria-label="What the compiler says">
              {done.made.said}
            </pre>
          )}
        </div>
      )}
    </div>
  );
}
