import Switch from "@mui/material/Switch";
import { client, unwrap, type Link, type RunResult } from "../../api/client";
import { useBench } from "../../work/BenchContext";
import { reason } from "../../work/reason";
import { useAttempt } from "../../work/useAttempt";
import { Choice } from "../../ui/Choice";
import { Field } from "../../ui/Field";
import { Ways } from "./Ways";
import { Term } from "../../ui/Term";
import css from "./ModuleView.module.css";

/** How the host drives the link, and what it costs. */
export function LinkSettings({ run }: { run: RunResult | undefined }) {
  const { bench, module, change } = useBench();
  const { attempt, error } = useAttempt();
  const { link } = module;
  const set = (next: Partial<Link>) => attempt((m) => ({ ...m, link: { ...m.link, ...next } }));
  const setOutputs = (next: Partial<Link["outputs"]>) =>
    attempt((m) => ({ ...m, link: { ...m.link, outputs: { ...m.link.outputs, ...next } } }));
  // All backpacks share the bus: its clock is theirs.
  const setBusSpeed = (speedHz: number) =>
    change((b) => ({
      ...b,
      bus: { ...b.bus, speedHz },
      modules: b.modules.map((m) =>
        m.link.kind === "backpack"
          ? { ...m, link: { ...m.link, outputs: { ...m.link.outputs, speedHz: undefined } } }
          : m,
      ),
    }));
  const setHost = (bearsMV: number) =>
    change((b) => ({
      ...b,
      host: { ...b.host, bearsMV },
      modules: b.modules.map((m) => ({ ...m, link: { ...m.link, hostMV: undefined } })),
    }));
  const setMapping = async (text: string) => {
    try {
      const mapping = unwrap(await client.POST("/api/mapping", { body: { text } }));
      return await setOutputs({ mapping });
    } catch (e) {
      return reason(e);
    }
  };
  const outputs = link.kind === "backpack" || link.kind === "shift";
  return (
    <section aria-label="Link settings">
      <h2>
        <Term of="link">Link</Term>
      </h2>
      {run && (
        <p className={css.note}>
          {run.link.hostPins.length} host pins: {run.link.hostPins.join(", ")}
        </p>
      )}
      <div className={css.fields}>
        {link.kind === "backpack" && (
          <Choice
            label="I²C clock of the bus"
            value={link.outputs.speedHz ?? bench.bus?.speedHz ?? 100_000}
            onChange={(v) => setBusSpeed(Number(v))}
          >
            <option value={100_000}>100 kHz</option>
            <option value={400_000}>400 kHz</option>
          </Choice>
        )}
        {link.kind === "shift" && (
          <Choice
            label="Shift clock"
            value={link.outputs.speedHz ?? 500_000}
            onChange={(v) => void setOutputs({ speedHz: Number(v) })}
          >
            <option value={100_000}>100 kHz</option>
            <option value={500_000}>500 kHz</option>
            <option value={4_000_000}>4 MHz</option>
          </Choice>
        )}
        {outputs && (
          <Field
            className={css.wide}
            label="Outputs P0–P7 (!BL: light on while low)"
            value={run?.link.mapping ?? ""}
            mono
            onChange={setMapping}
          />
        )}
        {!outputs && (
          <>
            <label className={css.wide}>
              <Switch checked={link.readWrite ?? false} onChange={(e) => void set({ readWrite: e.target.checked })} />
              R/W joined to the host
            </label>
            <Choice
              label="The host’s pins bear"
              value={link.hostMV ?? bench.host?.bearsMV ?? 5000}
              onChange={(v) => setHost(Number(v))}
            >
              <option value={5000}>5.0 V</option>
              <option value={3300}>3.3 V</option>
            </Choice>
            <Field
              label="Host moves a pin in, ns"
              value={String(link.pinNs || 1000)}
              onChange={(v) => set({ pinNs: Number(v) })}
            />
          </>
        )}
      </div>
      {error && (
        <p role="alert" className={css.error}>
          {error}
        </p>
      )}
      {outputs && <Ways onPick={(way) => void setOutputs({ transactions: way.transactions, setup: way.setup })} />}
    </section>
  );
}
