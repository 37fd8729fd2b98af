import { useQuery } from "@tanstack/react-query";
import type { Glass as GlassFacts, Setup } from "../../api/client";
import { glassQuery } from "../../api/glasses";
import { Glass } from "./Glass";
import { groundOf } from "./paint";
import { tintOf } from "./tints";

interface Props extends Look {
  setup: Setup;
  /** A mistake made on purpose, by its id in the catalogue of faults. */
  fault?: string | undefined;
}

interface Look {
  tint: string | undefined;
  /** What the picture is of, for screen readers. */
  name: string;
  /** CSS pixels that the glass may take across. */
  width: number;
  /** CSS pixels that a dot takes at most, where the glass is a small one. */
  most: number;
  className: string | undefined;
}

/** A screen as the simulated module shows it. */
export function ScreenPicture({ setup, fault, ...look }: Props) {
  const { data } = useQuery(glassQuery(setup, fault));
  return data ? <GlassPicture glass={data.glass} {...look} /> : null;
}

/** A glass as large as there is room for. */
export function GlassPicture({ glass, tint, name, width, most, className }: Look & { glass: GlassFacts }) {
  const pitch = Math.max(0.6, Math.min(most, width / (glass.cols * 6)));
  return (
    <div className={className} style={{ background: groundOf(glass, tintOf(tint)) }}>
      <Glass glass={glass} tint={tint} pitch={pitch} name={name} />
    </div>
  );
}
