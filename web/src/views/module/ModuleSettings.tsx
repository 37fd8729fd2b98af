import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { memo, useCallback, useRef } from "react";
import type { Display, Link, Module, RunResult, Schemas } from "../../api/client";
import { catalogQuery } from "../../api/queries";
import { useBench } from "../../work/BenchContext";
import { useAttempt } from "../../work/useAttempt";
import { tints } from "../../parts/glass/tints";
import { Choice } from "../../ui/Choice";
import { Field } from "../../ui/Field";
import css from "./ModuleView.module.css";

/** Size, technology, ROM, timing and supply of the module. */
export function ModuleSettings({ run }: { run: RunResult | undefined }) {
  const { module } = useBench();
  const { data: catalog } = useQuery(catalogQuery);
  const { attempt, error } = useAttempt();
  const file = useRef<HTMLInputElement>(null);
  const { display, link } = module;
  const { controller } = display;
  const set = useCallback<Set>(
    (next) => attempt((m) => ({ ...m, display: { ...m.display, ...next(m.display) } })),
    [attempt],
  );
  const askForChart = useCallback(() => file.current?.click(), []);
  const setController = controllerOf(set);
  return (
    <section aria-label="Module settings">
      <h2>Module</h2>
      <div className={css.fields}>
        <Size display={display} catalog={catalog} set={set} />
        <Look display={display} set={set} />
        <Chip display={display} link={link} catalog={catalog} set={set} attempt={attempt} onChart={askForChart} />
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
          if (chosen) void chosen.text().then((chart) => setController({ rom: "own", chart }));
        }}
      />
      {error && (
        <p role="alert" className={css.error}>
          {error}
        </p>
      )}
      {run && <Supply run={run} vfd={display.technology === "vfd"} />}
      {controller.rom === "own" ? (
        <Button size="small" onClick={askForChart}>
          Load another chart
        </Button>
      ) : (
        <p className={css.note}>
          A ROM of your own begins with a chart: <a href={`/api/roms/${controller.rom}`}>download {controller.rom}</a>,
          change its dots, and choose “own”.
        </p>
      )}
    </section>
  );
}

type Set = (next: (d: Display) => Partial<Display>) => Promise<string | undefined>;
type Catalog = Schemas["Catalog"];

interface PartProps {
  display: Display;
  set: Set;
}

const controllerOf = (set: Set) => (next: Partial<Display["controller"]>) =>
  set((d) => ({ controller: { ...d.controller, ...next } }));

/** What was bought: its cells, and how they shine. */
const Size = memo(function Size({ display, catalog, set }: PartProps & { catalog: Catalog | undefined }) {
  const known = catalog?.geometries.some((g) => g.name === display.geometry);
  const setGeometry = (geometry: string) =>
    set((d) => ({ geometry, controller: { ...d.controller, font: undefined } }));
  const setTechnology = (technology: Display["technology"]) =>
    set((d) => ({
      technology,
      tint: technology === "vfd" ? "teal" : "green",
      light: undefined,
      controller: { ...d.controller, family: undefined, font: undefined },
      supply: { ...d.supply, contrast: undefined, brightness: 0 },
    }));
  return (
    <>
      <Choice
        className={css.wide}
        label="Columns × rows"
        value={known ? display.geometry : "custom"}
        onChange={(g) => void setGeometry(g === "custom" ? "12x3@00,40,0C" : g)}
      >
        {catalog?.geometries.map((g) => (
          <option key={g.name} value={g.name}>
            {g.title}
            {g.note && `, ${g.note}`}
          </option>
        ))}
        <option value="custom">custom</option>
      </Choice>
      <Choice
        label="Technology"
        value={display.technology}
        onChange={(t) => void setTechnology(t as Display["technology"])}
      >
        <option value="lcd">LCD</option>
        <option value="vfd">VFD</option>
      </Choice>
      {catalog && !known && (
        <Field
          className={css.wide}
          label="Size@row start addresses, hexadecimal"
          value={display.geometry}
          onChange={(geometry) => set(() => ({ geometry }))}
        />
      )}
    </>
  );
});

/** What it looks like, and what lights it. */
const Look = memo(function Look({ display, set }: PartProps) {
  const vfd = display.technology === "vfd";
  const { controller } = display;
  const setController = controllerOf(set);
  return (
    <>
      {vfd ? (
        <Choice
          label="Brightness is set by"
          value={controller.family ?? "vfd-function-set"}
          onChange={(f) => void setController({ family: f as Display["controller"]["family"] })}
        >
          <option value="vfd-function-set">function set</option>
          <option value="vfd-data-byte">a data byte</option>
        </Choice>
      ) : (
        <Choice
          label="Glass"
          value={display.tint ?? "green"}
          onChange={(t) => void set(() => ({ tint: t as Display["tint"] }))}
        >
          {Object.entries(tints)
            .filter(([name]) => name !== "teal")
            .map(([name, t]) => (
              <option key={name} value={name}>
                {t.title}
              </option>
            ))}
        </Choice>
      )}
      {!vfd && (
        <Choice
          label="Backlight"
          value={display.light ?? ""}
          onChange={(l) => void set(() => ({ light: (l || undefined) as Display["light"] }))}
        >
          <option value="">by pins A and K</option>
          <option value="open">none: A and K stay open</option>
          <option value="none">none: 14 pins</option>
        </Choice>
      )}
    </>
  );
});

/** Its controller: dots, ROM and clock, how long the host waits for it, and what it is fed with. */
const Chip = memo(function Chip({
  display,
  link,
  catalog,
  set,
  attempt,
  onChart,
}: PartProps & {
  attempt: (next: (m: Module) => Module) => Promise<string | undefined>;
  link: Link;
  catalog: Catalog | undefined;
  onChart: () => void;
}) {
  const { controller } = display;
  const setController = controllerOf(set);
  const setWaits = (waits: Link["waits"]) => attempt((m) => ({ ...m, link: { ...m.link, waits } }));
  return (
    <>
      <Choice
        label="Dots of a cell"
        value={controller.font ?? "5x8"}
        onChange={(f) => void setController({ font: f as Display["controller"]["font"] })}
      >
        <option value="5x8">5 × 8</option>
        <option value="5x10">5 × 10, one line</option>
      </Choice>
      <Choice
        label="Character ROM"
        value={controller.rom}
        onChange={(rom) => (rom === "own" && !controller.chart ? onChart() : void setController({ rom }))}
      >
        {catalog?.roms.map((r) => (
          <option key={r} value={r}>
            {r}
          </option>
        ))}
        <option value="own">own, from a chart file</option>
      </Choice>
      {display.measured?.oscillatorKHz ? (
        <Field
          label={`Oscillator, measured, kHz (planned ${controller.oscillatorKHz})`}
          value={String(display.measured.oscillatorKHz)}
          onChange={(v) => set((d) => ({ measured: { ...d.measured, oscillatorKHz: Number(v) || undefined } }))}
        />
      ) : (
        <Field
          label="Oscillator, kHz"
          value={String(controller.oscillatorKHz)}
          onChange={(v) => setController({ oscillatorKHz: Number(v) })}
        />
      )}
      <Choice label="Host waits for" value={link.waits ?? "worst"} onChange={(w) => void setWaits(w as Link["waits"])}>
        <option value="worst">slowest module</option>
        <option value="typical">this oscillator</option>
        <option value="poll">the busy flag (R/W)</option>
      </Choice>
      <Choice
        label="Supply"
        value={display.supply?.mV ?? 5000}
        onChange={(v) => void set((d) => ({ supply: { ...d.supply, mV: Number(v), contrast: undefined } }))}
      >
        <option value={5000}>5.0 V</option>
        <option value={3300}>3.3 V</option>
      </Choice>
    </>
  );
});

/** What the module needs to be fed with, and the caution that goes with it. */
function Supply({ run: { supply: s }, vfd }: { run: RunResult; vfd: boolean }) {
  return (
    <section aria-label="Supply" className={css.supply}>
      <p>
        <b>
          {s.minMV / 1000}–{s.maxMV / 1000} V, about {Math.round(s.currentMA)} mA
        </b>{" "}
        at full light{s.bareMA < s.currentMA && `, ${s.bareMA} mA without`} ({s.source}; your module’s sheet decides).{" "}
        {s.note}
      </p>
      {vfd && (
        <p className={css.caution}>
          Keep off the board while it is fed.{" "}
          {s.currentMA > s.portMA &&
            `A USB port owes a device ${s.portMA} mA until it asks for more: give the module a supply of its own.`}
        </p>
      )}
      {!vfd && <p>A reversed supply or a backlight without its resistor kills the module: check before you join it.</p>}
    </section>
  );
}
