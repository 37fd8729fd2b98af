import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap, type LinkChoice } from "../../api/client";
import { linksQuery } from "../../api/queries";
import { useBench } from "../../work/BenchContext";
import { linkKinds } from "../../work/linkKinds";
import { reason } from "../../work/reason";
import { planOf } from "../../work/setup";
import { Field } from "../../ui/Field";
import { time } from "../../ui/numbers";
import { TextBox } from "../../ui/TextBox";
import css from "./Panel.module.css";

/** The module on the dock: how it may be joined to the host, and more of its kind. */
export function ModulePanel() {
  const { bench, module } = useBench();
  const index = bench.modules.indexOf(module);
  const { data: links, error } = useQuery(linksQuery(planOf(bench, module), index));
  return (
    <section className={css.panel} aria-label="Link of the module">
      <h2>How {module.name || "the module"} is joined</h2>
      {error && <p role="alert">{reason(error)}</p>}
      <ul className={css.links}>
        {links?.map((l) => (
          <li key={l.kind}>
            <Choice choice={l} />
          </li>
        ))}
      </ul>
      {module.link.kind !== "backpack" && <Pins lines={links?.find((l) => l.now)?.lines ?? []} />}
      <More />
    </section>
  );
}

/** The host's pins in the order of the lines, as people write them down. */
function Pins({ lines }: { lines: string[] }) {
  const { bench, module, remedy } = useBench();
  const pins = module.link.pins ?? {};
  const value = lines.some((l) => pins[l]) ? lines.map((l) => pins[l] ?? "…").join(", ") : "";
  return (
    <Field
      label={`Pins for ${lines.join(", ")}`}
      placeholder="such as 12, 11, 5, 4, 3, 2"
      mono
      value={value}
      onChange={async (text) => {
        try {
          const body = { bench: planOf(bench), module: bench.modules.indexOf(module), text };
          return remedy(unwrap(await client.POST("/api/plan/pins", { body })));
        } catch (e) {
          return reason(e);
        }
      }}
    />
  );
}

/** One link with what it takes and costs for the module's real screen. */
function Choice({ choice: l }: { choice: LinkChoice }) {
  const { remedy } = useBench();
  const [refused, setRefused] = useState<string>();
  const ways = l.ways ?? [];
  const pins = l.lines.map((line) => (l.pins[line] ? `${line} ${l.pins[line]}` : line)).join(", ");
  return (
    <article className={css.link} data-now={l.now || undefined} aria-label={linkKinds[l.kind]}>
      <header>
        <span>
          <b>{linkKinds[l.kind]}</b> {l.recommended && <span className={css.badge}>recommended</span>}
        </span>
        {l.now ? (
          <span className={css.note}>as it is</span>
        ) : ways.length > 0 ? null : (
          <Button
            size="small"
            variant="outlined"
            disabled={!l.fits}
            onClick={() => setRefused(remedy({ label: "", patch: l.patch }))}
          >
            Join it so
          </Button>
        )}
      </header>
      <p className={css.figures}>
        <span>
          <b>{l.taken}</b> pins, <b>{l.left}</b> left
        </span>
        <span>
          {ways[0] ? (
            <>
              <b>{ways[0].wires}</b> wires and a level converter
            </>
          ) : (
            <>
              <b>{l.wires}</b> wires
            </>
          )}
        </span>
        <span>
          screen in <b>{time(l.updateUs || l.wireUs)}</b>
        </span>
        {l.updateUs > 0 && (
          <span>
            <b>{Math.floor(1e6 / l.updateUs)}</b> updates/s
          </span>
        )}
      </p>
      {!l.now && l.fits && ways.length > 0 && (
        <div className={css.ways} role="group" aria-label="Its levels are no match for this host: choose how">
          <p className={css.note}>Its levels are no match for this host’s: choose how they are joined.</p>
          {ways.map((w) => (
            <Button
              key={w.title}
              size="small"
              variant="outlined"
              title={[w.against, ...w.parts].filter(Boolean).join("; ")}
              onClick={() => setRefused(remedy({ label: "", patch: [...l.patch, ...w.patch] }))}
            >
              {w.title}: {w.wires} wires
            </Button>
          ))}
        </div>
      )}
      {!l.fits && <p role="note">Does not fit: {l.why}.</p>}
      {l.reason && <p className={css.note}>{l.reason}</p>}
      {refused && <p role="alert">{refused}</p>}
      <details>
        <summary>Pins, parts, for and against</summary>
        <p>{pins}</p>
        {l.parts.length > 0 && <p>To have: {l.parts.join(", ")}.</p>}
        <ul>
          {l.for.map((w) => (
            <li key={w}>For: {w}</li>
          ))}
          {l.against.map((w) => (
            <li key={w}>Against: {w}</li>
          ))}
        </ul>
      </details>
    </article>
  );
}

/** Several more modules like this one, in one step. */
function More() {
  const { module, addModules } = useBench();
  const [count, setCount] = useState("7");
  const [said, setSaid] = useState<string>();
  const n = Number(count);
  const wrong = !(Number.isInteger(n) && n >= 1 && n <= 63);
  return (
    <div>
      <h3>More like this one</h3>
      <form
        className={css.more}
        onSubmit={(e) => {
          e.preventDefault();
          if (!wrong) void addModules(module, n).then(setSaid);
        }}
      >
        <TextBox
          aria-label="How many more"
          inputMode="numeric"
          value={count}
          onChange={(e) => setCount(e.target.value)}
        />
        <Button type="submit" variant="outlined" disabled={wrong}>
          {wrong ? "1 to 63 more" : n === 1 ? "Add one" : `Add ${n}`}
        </Button>
        <span className={css.note}>each with a name, a screen, and an address or pins of its own</span>
      </form>
      {said && <p role="alert">{said}</p>}
    </div>
  );
}
