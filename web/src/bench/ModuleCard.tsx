import Switch from "@mui/material/Switch";
import { useQuery } from "@tanstack/react-query";
import type { Module, RunResult } from "../api/client";
import { memo } from "react";
import { catalogQuery } from "../api/queries";
import { Choice } from "../ui/Choice";
import { InlineText } from "../ui/InlineText";
import { useBench, type BenchWork } from "./BenchContext";
import { linkKinds } from "./linkKinds";
import css from "./ModuleCard.module.css";

type Link = Module["link"];

/** What the module is and how it is joined, edited in place. */
export function ModuleCard({ run }: { run: RunResult | undefined }) {
  const { module, changeModule } = useBench();
  const hardware = { ...module, screen: undefined };
  const pins = run?.link.hostPins.join(", ") ?? "";
  return <Card hardware={JSON.stringify(hardware)} pins={pins} changeModule={changeModule} />;
}

interface CardProps {
  /** The module without its screen, as JSON, so that typing does not draw the card again. */
  hardware: string;
  pins: string;
  changeModule: BenchWork["changeModule"];
}

const Card = memo(function Card({ hardware, pins, changeModule }: CardProps) {
  const module = JSON.parse(hardware) as Omit<Module, "screen">;
  const { data: catalog } = useQuery(catalogQuery);
  const setLink = (next: Partial<Link>) => changeModule((m) => ({ ...m, link: { ...m.link, ...next } }));
  // Another link begins with its usual settings and waits.
  const setKind = (kind: Link["kind"]) =>
    changeModule((m) => ({
      ...m,
      waits: undefined,
      link: { kind, address: m.link.address, backlight: m.link.backlight, hostMV: m.link.hostMV },
    }));
  const geometry = catalog?.geometries.find((g) => g.name === module.geometry);
  const address = catalog?.addresses.find((a) => a.address === module.link.address);
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
        {geometry?.title ?? module.geometry} {module.technology.toUpperCase()}, ROM {module.rom}
      </p>
      <div className={css.link}>
        <Choice label="Link" value={module.link.kind} onChange={(kind) => setKind(kind as Link["kind"])}>
          {Object.entries(linkKinds).map(([kind, title]) => (
            <option key={kind} value={kind}>
              {title}
            </option>
          ))}
        </Choice>
        {module.link.kind === "backpack" && catalog && (
          <Choice label="Address" value={module.link.address} onChange={(a) => setLink({ address: Number(a) })}>
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
          ? address && `${address.part}; jumpers closed: ${address.closed}`
          : `${module.link.readWrite ? "" : "R/W to ground; "}host pins ${pins}`}
      </p>
      {(module.link.kind === "backpack" || module.link.kind === "shift") && module.technology === "lcd" && (
        <label className={css.switch}>
          <Switch
            size="small"
            checked={module.link.backlight}
            onChange={(e) => setLink({ backlight: e.target.checked })}
          />
          Backlight
        </label>
      )}
    </div>
  );
});
