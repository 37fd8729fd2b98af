import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { client, unwrap, type Module } from "../api/client";
import { catalogQuery } from "../api/queries";
import { useBench } from "../bench/BenchContext";
import { tints } from "../glass/tints";
import { Choice } from "../ui/Choice";
import { Field } from "../ui/Field";
import css from "./ModuleView.module.css";

/** Size, technology, ROM and timing of the module. */
export function ModuleSettings() {
  const { module, changeModule } = useBench();
  const { data: catalog } = useQuery(catalogQuery);
  const file = useRef<HTMLInputElement>(null);
  const [error, setError] = useState("");
  const set = (next: Partial<Module>) => changeModule((m) => ({ ...m, ...next }));
  const known = catalog?.geometries.some((g) => g.name === module.geometry);

  /** Takes a change only where the server can make a module of it. */
  const attempt = async (next: Partial<Module>) => {
    try {
      unwrap(await client.POST("/api/rom", { body: { ...module, ...next } }));
      setError("");
      set(next);
    } catch (e) {
      setError(e instanceof Error ? e.message : String(e));
    }
  };
  const setTechnology = (technology: Module["technology"]) =>
    set({ technology, family: undefined, tint: technology === "vfd" ? "teal" : "green", brightness: 0 });
  return (
    <section aria-label="Module settings">
      <h2>Module</h2>
      <div className={css.fields}>
        <Choice
          label="Columns × rows"
          value={known ? module.geometry : "custom"}
          onChange={(g) => void attempt({ geometry: g === "custom" ? "12x3@00,40,0C" : g })}
        >
          {catalog?.geometries.map((g) => (
            <option key={g.name} value={g.name}>
              {g.title}
              {g.note && `, ${g.note}`}
            </option>
          ))}
          <option value="custom">custom</option>
        </Choice>
        {catalog && !known && (
          <Field label="Size@row starts" value={module.geometry} onChange={(geometry) => void attempt({ geometry })} />
        )}
        <Choice label="Technology" value={module.technology} onChange={(t) => setTechnology(t as Module["technology"])}>
          <option value="lcd">LCD</option>
          <option value="vfd">VFD</option>
        </Choice>
        {module.technology === "vfd" ? (
          <Choice
            label="Brightness is set by"
            value={module.family ?? "vfd-function-set"}
            onChange={(f) => set({ family: f as Module["family"] })}
          >
            <option value="vfd-function-set">bits of the function set</option>
            <option value="vfd-data-byte">a data byte after it</option>
          </Choice>
        ) : (
          <Choice label="Glass" value={module.tint ?? "green"} onChange={(t) => set({ tint: t as Module["tint"] })}>
            {Object.entries(tints)
              .filter(([name]) => name !== "teal")
              .map(([name, t]) => (
                <option key={name} value={name}>
                  {t.title}
                </option>
              ))}
          </Choice>
        )}
        <Choice
          label="Character ROM"
          value={module.rom}
          onChange={(rom) => (rom === "own" && !module.chart ? file.current?.click() : void attempt({ rom }))}
        >
          {catalog?.roms.map((r) => (
            <option key={r} value={r}>
              {r}
            </option>
          ))}
          <option value="own">own, from a chart file</option>
        </Choice>
        <Choice label="Supply" value={module.supplyMV ?? 5000} onChange={(v) => set({ supplyMV: Number(v) })}>
          <option value={5000}>5.0 V</option>
          <option value={3300}>3.3 V</option>
        </Choice>
        <Field
          label="Oscillator, kHz (190–350)"
          value={String(module.oscillatorKHz)}
          onChange={(v) => void attempt({ oscillatorKHz: Number(v) })}
        />
        <Choice
          label="Host waits for"
          value={module.waits ?? "worst"}
          onChange={(w) => set({ waits: w as Module["waits"] })}
        >
          <option value="worst">the slowest module (190 kHz)</option>
          <option value="typical">this oscillator</option>
          <option value="poll">the busy flag (needs R/W)</option>
        </Choice>
      </div>
      <input
        ref={file}
        type="file"
        hidden
        accept=".chart,.txt,text/plain"
        aria-label="ROM chart"
        onChange={(e) => {
          const chosen = e.target.files?.[0];
          e.target.value = "";
          if (chosen) void chosen.text().then((chart) => attempt({ rom: "own", chart }));
        }}
      />
      {module.rom === "own" ? (
        <Button size="small" onClick={() => file.current?.click()}>
          Load another chart
        </Button>
      ) : (
        <p className={css.note}>
          A ROM of your own begins with a chart: <a href={`/api/roms/${module.rom}`}>download {module.rom}</a>, change
          its dots, and choose “own”.
        </p>
      )}
      {error && (
        <p role="alert" className={css.error}>
          {error}
        </p>
      )}
      {module.technology === "vfd" && (
        <p className={css.note}>
          A VFD module makes tens of volts on its board and may draw more than a USB port gives: look up its supply
          current, and keep off the board while it is fed.
        </p>
      )}
    </section>
  );
}
