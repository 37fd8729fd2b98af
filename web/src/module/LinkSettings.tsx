import Switch from "@mui/material/Switch";
import { useState } from "react";
import { client, unwrap, type Module, type RunResult } from "../api/client";
import { useBench } from "../bench/BenchContext";
import { Choice } from "../ui/Choice";
import { Field } from "../ui/Field";
import { time } from "../ui/numbers";
import css from "./ModuleView.module.css";

type Link = Module["link"];

/** How the host drives the link, and what it costs. */
export function LinkSettings({ run }: { run: RunResult | undefined }) {
  const { module, changeModule } = useBench();
  const [error, setError] = useState("");
  const link = module.link;
  const set = (next: Partial<Link>) => changeModule((m) => ({ ...m, link: { ...m.link, ...next } }));
  const setMapping = async (text: string) => {
    try {
      set({ mapping: unwrap(await client.POST("/api/mapping", { body: { text } })) });
      setError("");
    } catch (e) {
      setError(e instanceof Error ? e.message : String(e));
    }
  };
  const outputs = link.kind === "backpack" || link.kind === "shift";
  return (
    <section aria-label="Link settings">
      <h2>Link</h2>
      <p className={css.note}>
        {run?.link.hostPins.length} host pins: {run?.link.hostPins.join(", ")}
      </p>
      <div className={css.fields}>
        {link.kind === "backpack" && (
          <>
            <Choice
              label="Transactions"
              value={link.transactions ?? "screen"}
              onChange={(t) => set({ transactions: t as Link["transactions"] })}
            >
              <option value="screen">as few as pauses allow</option>
              <option value="operation">one an operation</option>
              <option value="byte">one a byte</option>
            </Choice>
            <Choice label="I²C clock" value={link.speedHz ?? 100_000} onChange={(v) => set({ speedHz: Number(v) })}>
              <option value={100_000}>100 kHz</option>
              <option value={400_000}>400 kHz</option>
            </Choice>
          </>
        )}
        {outputs ? (
          <>
            <Choice
              label="RS and data"
              value={link.setup ?? "lawful"}
              onChange={(s) => set({ setup: s as Link["setup"] })}
            >
              <option value="lawful">a byte before E if RS changes</option>
              <option value="before">a byte before every E</option>
              <option value="with-e">with E (breaks t_AS)</option>
            </Choice>
            <Field
              className={css.wide}
              label="Outputs P0–P7; !BL: backlight on while low"
              value={run?.link.mapping ?? ""}
              mono
              onChange={(text) => void setMapping(text)}
            />
          </>
        ) : (
          <>
            <label>
              <Switch checked={link.readWrite ?? false} onChange={(e) => set({ readWrite: e.target.checked })} />
              R/W joined to the host
            </label>
            <Choice label="Host pins bear" value={link.hostMV ?? 5000} onChange={(v) => set({ hostMV: Number(v) })}>
              <option value={5000}>5.0 V</option>
              <option value={3300}>3.3 V</option>
            </Choice>
          </>
        )}
      </div>
      {error && (
        <p role="alert" className={css.error}>
          {error}
        </p>
      )}
      {run?.link.plain && (
        <div className={css.cost} aria-label="Cost on the wire">
          <span className={css.note}>On the wire</span>
          <span className={css.note}>bytes</span>
          <span className={css.note}>time</span>
          <span>As set</span>
          <span>{run.program.totals.wireWords}</span>
          <span>{time(run.program.totals.wireUs)}</span>
          <span>Plain: one transaction a byte</span>
          <span>{run.link.plain.wireWords}</span>
          <span>{time(run.link.plain.wireUs)}</span>
          {run.program.totals.wireUs < run.link.plain.wireUs && (
            <span className={css.beat}>
              {(run.link.plain.wireUs / run.program.totals.wireUs).toFixed(1)} times as fast as the plain way
            </span>
          )}
        </div>
      )}
    </section>
  );
}
