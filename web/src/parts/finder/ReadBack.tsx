import { useState } from "react";
import { recall } from "../../api/realTable";
import { Quiet } from "../../ui/Quiet";
import { useBench } from "../../work/BenchContext";
import { reason } from "../../work/reason";
import { useRealTable } from "../../work/useRealTable";

interface Props {
  module: number;
  cols: number;
  rows: number;
  onSeen: (cells: string[]) => void;
}

/** What the real module's memory holds, in place of what one sees; where it is connected under Live, and can be read. */
export function ReadBack({ module, cols, rows, onSeen }: Props) {
  const { id } = useBench();
  const { table } = useRealTable();
  const [refused, setRefused] = useState<string>();
  if (!table?.connected || table.bench !== id || !table.modules[module]?.reads) return null;
  const read = async () => {
    try {
      const { text } = await recall(module);
      onSeen(
        Array.from({ length: rows }, (_, r) => {
          const row = Array.from(text[r] ?? "").slice(0, cols);
          return [...row, ...Array.from({ length: cols - row.length }, () => " ")];
        }).flat(),
      );
      setRefused(undefined);
    } catch (e) {
      setRefused(reason(e));
    }
  };
  return (
    <p>
      <Quiet
        title="By R/W, over Live: what its controller holds. What the glass makes of it, eyes or a photograph must say"
        onClick={() => void read()}
      >
        Read it back from the module
      </Quiet>{" "}
      {refused && <span role="alert">{refused}</span>}
    </p>
  );
}
