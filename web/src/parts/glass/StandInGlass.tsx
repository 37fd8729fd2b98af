import { useQuery } from "@tanstack/react-query";
import { standInQuery } from "../../api/realTable";
import { Glass } from "./Glass";
import { CELL_COLS } from "./metrics";
import { groundOf } from "./paint";
import { tintOf } from "./tints";

interface Props {
  module: number;
  tint: string | undefined;
  /** CSS pixels that it may take. */
  width: number;
  name: string;
}

/** The glass of a module of the stand-in, as it is now. */
export function StandInGlass({ module, tint, width, name }: Props) {
  const { data: glass } = useQuery(standInQuery(module));
  if (!glass) return null;
  return (
    <div style={{ width: "fit-content", padding: 5, borderRadius: 4, background: groundOf(glass, tintOf(tint)) }}>
      <Glass glass={glass} tint={tint} pitch={Math.max(0.8, width / (glass.cols * CELL_COLS))} name={name} />
    </div>
  );
}
