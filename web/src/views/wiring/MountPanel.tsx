import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Mounting } from "../../api/client";
import { cutoutQuery } from "../../api/queries";
import { Field } from "../../ui/Field";
import { useBench } from "../../work/BenchContext";
import { decimal } from "../../ui/numbers";
import { reason } from "../../work/reason";
import css from "./MountPanel.module.css";

const fields: { key: keyof Mounting; label: string }[] = [
  { key: "widthMM", label: "Board, width" },
  { key: "heightMM", label: "Board, height" },
  { key: "holesAcrossMM", label: "Holes apart, across" },
  { key: "holesUpMM", label: "Holes apart, up" },
  { key: "holeMM", label: "Hole, across" },
  { key: "windowWidthMM", label: "Window, width" },
  { key: "windowHeightMM", label: "Window, height" },
  { key: "bezelWidthMM", label: "Bezel, width" },
  { key: "bezelHeightMM", label: "Bezel, height" },
  { key: "rightMM", label: "Window, right of the middle" },
  { key: "upMM", label: "Window, up from the middle" },
];

/** What is kept of the grid while the view is open. */
interface Grid {
  clearanceMM: number;
  unitWidthMM: number;
  unitHeightMM: number;
}

/** Behind which opening the module is mounted: a drawing to scale, and its figures. */
export function MountPanel() {
  const { module, changeModule } = useBench();
  const [grid, setGrid] = useState<Grid>({ clearanceMM: 0.5, unitWidthMM: 8, unitHeightMM: 9.6 });
  const { data, error } = useQuery(cutoutQuery({ display: module.display, name: module.name, ...grid }));
  const mounting = module.display.mounting ?? {};
  const number = (text: string, least: number, most: number) => {
    const v = decimal(text);
    return v >= least && v <= most ? v : undefined;
  };
  const href = data?.svg ? `data:image/svg+xml;charset=utf-8,${encodeURIComponent(data.svg)}` : undefined;
  return (
    <section className={css.mount} aria-label="Mounting">
      <h2>Mounting {module.name || "the module"}</h2>
      <p className={css.hint}>
        The usual board of {module.display.geometry.split("@")[0]}; makers’ boards differ. Hold the drawing, printed at
        100 %, against yours before you cut.
      </p>
      {href && <img src={href} alt="Cut-out with opening, holes and outline, to scale" />}
      {(data?.why ?? error) && <p role="alert">{data?.why ?? reason(error)}</p>}
      {href && (
        <a className={css.save} href={href} download={data?.name}>
          Save the drawing (SVG, mm)
        </a>
      )}
      <div className={css.fields}>
        {(
          [
            ["clearanceMM", "Clearance around the opening, mm", 20],
            ["unitWidthMM", "Case’s unit across, mm", 500],
            ["unitHeightMM", "Case’s unit up, mm", 500],
          ] as const
        ).map(([key, label, most]) => (
          <Field
            key={key}
            label={label}
            value={String(grid[key])}
            onChange={(text) => {
              const v = number(text, 0, most);
              if (v === undefined) return Promise.resolve(`“${text}”; expected 0–${most} mm`);
              setGrid({ ...grid, [key]: v });
              return Promise.resolve(undefined);
            }}
          />
        ))}
        {fields.map(({ key, label }) => (
          <Field
            key={key}
            label={`${label}, mm`}
            value={mounting[key] === undefined ? "" : String(mounting[key])}
            placeholder="usual"
            onChange={(text) => {
              const v =
                text.trim() === "" ? undefined : number(text, key === "rightMM" || key === "upMM" ? -250 : 0.1, 500);
              if (text.trim() !== "" && v === undefined)
                return Promise.resolve(`“${text}”; expected millimetres up to 500`);
              changeModule((m) => ({ ...m, display: { ...m.display, mounting: { ...m.display.mounting, [key]: v } } }));
              return Promise.resolve(undefined);
            }}
          />
        ))}
      </div>
    </section>
  );
}
