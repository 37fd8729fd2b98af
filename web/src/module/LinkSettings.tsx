import Switch from "@mui/material/Switch";
import { client, reason, unwrap, type Module, type RunResult } from "../api/client";
import { useBench } from "../bench/BenchContext";
import { useAttempt } from "../bench/useAttempt";
import { Choice } from "../ui/Choice";
import { Field } from "../ui/Field";
import { LinkCosts } from "./LinkCosts";
import { Ways } from "./Ways";
import css from "./ModuleView.module.css";

type Link = Module["link"];

/** How the host drives the link, and what it costs. */
export function LinkSettings({ run }: { run: RunResult | undefined }) {
  const { module } = useBench();
  const { attempt, error } = useAttempt();
  const link = module.link;
  const set = (next: Partial<Link>) => attempt((m) => ({ ...m, link: { ...m.link, ...next } }));
  const setMapping = async (text: string) => {
    try {
      const mapping = unwrap(await client.POST("/api/mapping", { body: { text } }));
      return await set({ mapping });
    } catch (e) {
      return reason(e);
    }
  };
  const outputs = link.kind === "backpack" || link.kind === "shift";
  return (
    <section aria-label="Link settings">
      <h2>Link</h2>
      {run && (
        <p className={css.note}>
          {run.link.hostPins.length} host pins: {run.link.hostPins.join(", ")}
        </p>
      )}
      <div className={css.fields}>
        {link.kind === "backpack" && (
          <Choice label="I²C clock" value={link.speedHz ?? 100_000} onChange={(v) => void set({ speedHz: Number(v) })}>
            <option value={100_000}>100 kHz</option>
            <option value={400_000}>400 kHz</option>
          </Choice>
        )}
        {link.kind === "shift" && (
          <Choice
            label="Shift clock"
            value={link.speedHz ?? 500_000}
            onChange={(v) => void set({ speedHz: Number(v) })}
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
              label="Host pins bear"
              value={link.hostMV ?? 5000}
              onChange={(v) => void set({ hostMV: Number(v) })}
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
      {outputs && <Ways onPick={(way) => void set({ transactions: way.transactions, setup: way.setup })} />}
      <LinkCosts />
    </section>
  );
}
