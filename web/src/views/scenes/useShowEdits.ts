import { useState } from "react";
import { addInputs, editShow, type GroupRequest, type Show } from "../../api/plays";
import { useBench } from "../../work/BenchContext";
import { reason } from "../../work/reason";
import { withShow } from "./edits";

/** Changes of the module's show: those of one value here, those that need the bench by the program. */
export function useShowEdits() {
  const { bench, module, changeModule, remedy } = useBench();
  const [refused, setRefused] = useState<string>();
  const at = bench.modules.indexOf(module);
  const failed = (e: unknown) => setRefused(reason(e));
  return {
    refused,
    change: (next: (s: Show) => Show, tag?: string) => changeModule((m) => withShow(m, next), tag),
    /** A change that the program makes; then is told the id of what was added. */
    edit: (what: Parameters<typeof editShow>[2], then?: (id: string) => void) => {
      editShow(bench, at, what).then((r) => {
        const trouble = remedy(r);
        setRefused(trouble);
        if (!trouble && r.id) then?.(r.id);
      }, failed);
    },
    addGroup: (group: GroupRequest["group"]) => {
      addInputs(bench, at, group).then((r) => setRefused(remedy(r)), failed);
    },
  };
}
