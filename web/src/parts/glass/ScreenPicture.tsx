import { useQuery } from "@tanstack/react-query";
import type { Setup } from "../../api/client";
import { noExtras, runQuery, type Extras } from "../../api/queries";
import { Glass } from "./Glass";
import { groundOf } from "./paint";
import { tintOf } from "./tints";

interface Props {
  setup: Setup;
  /** What the run has beside the screen; nothing where it is absent. */
  extras?: Extras;
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
export function ScreenPicture({ setup, extras = noExtras, tint, name, width, most, className }: Props) {
  const { data: run } = useQuery(runQuery(setup, extras));
  if (!run) return null;
  const pitch = Math.max(0.6, Math.min(most, width / (run.glass.cols * 6)));
  return (
    <div className={className} style={{ background: groundOf(run.glass, tintOf(tint)) }}>
      <Glass glass={run.glass} tint={tint} pitch={pitch} name={name} />
    </div>
  );
}
