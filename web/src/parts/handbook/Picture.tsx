import { useQuery } from "@tanstack/react-query";
import type { Bench } from "../../api/client";
import { demoQuery } from "../../api/queries";
import { setupOf } from "../../work/setup";
import { Cells } from "../dots/Cells";
import { ScreenPicture } from "../glass/ScreenPicture";
import css from "./Handbook.module.css";

/** Pixels that a glass takes across, and that a dot of one takes at most. */
const WIDTH = 320;
const DOT = 2.6;

/** A picture of the demo's bench, simulated as it is looked at: "glass MODULE SCREEN [FAULT]", or "glyphs KEY…". */
export function Picture({ what: [kind, ...of], caption }: { what: string[]; caption: string }) {
  const { data: bench } = useQuery(demoQuery);
  return (
    <figure className={css.picture}>
      {bench &&
        (kind === "glyphs" ? (
          <Glyphs bench={bench} keys={of.map(Number)} caption={caption} />
        ) : (
          <Shown bench={bench} of={of} caption={caption} />
        ))}
      <figcaption>{caption}</figcaption>
    </figure>
  );
}

function Shown({ bench, of: [id, screen, fault], caption }: { bench: Bench; of: string[]; caption: string }) {
  const module = bench.modules.find((m) => m.id === id);
  const at = module?.screens.findIndex((s) => s.id === screen) ?? -1;
  if (!module || at < 0) return null;
  return (
    <ScreenPicture
      setup={setupOf(bench, module, at, undefined)}
      fault={fault}
      tint={module.display.tint}
      name={caption}
      width={WIDTH}
      most={DOT}
      className={css.glass}
    />
  );
}

function Glyphs({ bench, keys, caption }: { bench: Bench; keys: number[]; caption: string }) {
  const cells = keys.map((key) => bench.glyphs?.find((g) => g.key === key)?.rows ?? []);
  return <Cells cells={cells} cols={cells.length} label={caption} dot={5} />;
}
