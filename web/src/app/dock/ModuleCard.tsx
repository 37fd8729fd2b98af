import Switch from "@mui/material/Switch";
import { useQuery } from "@tanstack/react-query";
import type { Link, Module, RunResult } from "../../api/client";
import { memo, useState } from "react";
import { catalogQuery } from "../../api/queries";
import { Choice } from "../../ui/Choice";
import { InlineText } from "../../ui/InlineText";
import { useBench, type BenchWork } from "../../work/BenchContext";
import { linkKinds } from "../../work/linkKinds";
import css from "./ModuleCard.module.css";

/** What the module is and how it is joined, edited in place. */
export function ModuleCard({ run }: { run: RunResult | undefined }) {
  const { module, changeModule, join } = useBench();
  const hardware = { ...module, screens: undefined, show: undefined };
  const pins = run?.link.hostPins.join(", ") ?? "";
  return <Card hardware={JSON.stringify(hardware)} pins={pins} changeModule={changeModule} join={join} />;
}

interface CardProps {
  /** The module without its screens, as JSON, so that typing does not draw the card again. */
  hardware: string;
  pins: string;
  changeModule: BenchWork["changeModule"];
  join: BenchWork["join"];
}

const Card = memo(function Card({ hardware, pins, changeModule, join }: CardProps) {
  const module = JSON.parse(hardware) as Omit<Module, "screens" | "show">;
  const { data: catalog } = useQuery(catalogQuery);
  const setOutputs = (next: Partial<Link["outputs"]>) =>
    changeModule((m) => ({ ...m, link: { ...m.link, outputs: { ...m.link.outputs, ...next } } }));
  const [short, setShort] = useState<string>();
  const geometry = catalog?.geometries.find((g) => g.name === module.display.geometry);
  const address = catalog?.addresses.find((a) => a.address === module.link.outputs.address);
  return (
    <div className={css.card}>
      <InlineText
        strong
        label="Name of the module"
        value={module.name}
        placeholder="Unnamed module"
        onChange={(name) => changeModule((m) => ({ ...m, name }))}
      />
      <p className={css.facts}>
        {geometry?.title ?? module.display.geometry} {module.display.technology.toUpperCase()}, ROM{" "}
        {module.display.controller.rom}
      </p>
      <div className={css.link}>
        <Choice
          label="Link"
          value={module.link.kind}
          onChange={(kind) => void join(kind as Link["kind"]).then(setShort)}
        >
          {Object.entries(linkKinds).map(([kind, title]) => (
            <option key={kind} value={kind}>
              {title}
            </option>
          ))}
        </Choice>
        {module.link.kind === "backpack" && catalog && (
          <Choice
            label="Address"
            value={module.link.outputs.address}
            onChange={(a) => setOutputs({ address: Number(a) })}
          >
            {catalog.addresses.map((a) => (
              <option key={a.address} value={a.address}>
                {a.hex} = {a.address}
              </option>
            ))}
          </Choice>
        )}
      </div>
      <p className={css.facts} title={pins}>
        {module.link.kind === "backpack"
          ? address && `${address.part}; pads closed: ${address.closed}`
          : `${module.link.readWrite ? "" : "R/W to ground; "}host pins ${pins}`}
      </p>
      {short && (
        <p role="status" className={css.facts}>
          {short}
        </p>
      )}
      {(module.link.kind === "backpack" || module.link.kind === "shift") && module.display.technology === "lcd" && (
        <label className={css.switch}>
          <Switch
            size="small"
            checked={module.link.outputs.backlight}
            onChange={(e) => setOutputs({ backlight: e.target.checked })}
          />
          Backlight
        </label>
      )}
    </div>
  );
});
