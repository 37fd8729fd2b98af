import { useCallback } from "react";
import { client, unwrap, type Bench, type Module } from "../api/client";
import { useLatest } from "../ui/useLatest";
import type { BenchWork } from "./BenchContext";
import { remedied } from "./patch";
import { reason } from "./reason";
import { planOf } from "./setup";

/** How modules come onto the bench, go, and are joined. */
export function useModules(
  bench: Bench,
  module: Module,
  change: BenchWork["change"],
  onSelect: (id: string) => void,
): Pick<BenchWork, "addModules" | "removeModule" | "join"> {
  const latest = useLatest({ bench, module });
  const join = useCallback<BenchWork["join"]>(
    async (kind) => {
      const { bench: b, module: m } = latest.current;
      try {
        const body = { bench: planOf(b, m), module: b.modules.indexOf(m) };
        const choice = unwrap(await client.POST("/api/plan/links", { body })).find((l) => l.kind === kind);
        if (!choice) return undefined;
        if (!choice.fits && kind === "backpack") return `It does not fit: ${choice.why ?? ""}.`;
        const { bench: joined, error } = remedied(latest.current.bench, { label: "", patch: choice.patch });
        if (joined) change(() => joined);
        return error ?? (choice.fits ? undefined : `Its pins are left open: ${choice.why ?? ""}.`);
      } catch (e) {
        return reason(e);
      }
    },
    [change, latest],
  );
  const addModules = useCallback<BenchWork["addModules"]>(
    async (like, count) => {
      const { bench: b } = latest.current;
      try {
        const body = { bench: b, module: b.modules.indexOf(like), count };
        const { patch, ids, why, would } = unwrap(await client.POST("/api/plan/like", { body }));
        const { bench: grown, error } = remedied(b, { label: "", patch });
        if (!grown) return error;
        if (ids.length > 0) {
          const added = grown.modules.slice(-ids.length);
          change((now) => (now === b ? grown : { ...now, modules: [...now.modules, ...added] }));
          onSelect(ids[0] as string);
        }
        return why && `${ids.length} of ${count} fit: ${why}. What would make room: ${(would ?? []).join("; ")}.`;
      } catch (e) {
        return reason(e);
      }
    },
    [change, latest, onSelect],
  );
  const removeModule = useCallback<BenchWork["removeModule"]>(
    (id) => {
      const { bench: b, module: m } = latest.current;
      if (b.modules.length < 2) return;
      const at = b.modules.findIndex((o) => o.id === id);
      const next = b.modules[at + 1] ?? b.modules[at - 1];
      change((now) => ({ ...now, modules: now.modules.filter((o) => o.id !== id) }));
      if (id === m.id && next) onSelect(next.id);
    },
    [change, latest, onSelect],
  );
  return { join, addModules, removeModule };
}
