import { useEffect, useRef } from "react";
import { rewire, showThere } from "../../api/realTable";
import { useBench } from "../../work/BenchContext";
import { wiringOf } from "../../work/setup";
import { useRealTable, useWatch } from "../../work/useRealTable";

/**
 * Lets the real modules follow what is edited, while this page drives them: each shows the screen of it that was composed
 * last. What could not be told is in the state of the table. It draws nothing.
 */
export function Follow() {
  useWatch();
  const { id, bench, setupOf } = useBench();
  const { table, by, drives } = useRealTable();
  const on = drives && table?.bench === id;
  const told = useRef(new Map<string, string>());
  const joined = useRef<string>("");
  useEffect(() => {
    if (!on) {
      told.current.clear();
      joined.current = "";
      return;
    }
    const wires = JSON.stringify([
      bench.host,
      bench.bus,
      bench.modules.map((m) => [m.id, m.display, m.link, m.fitting]),
    ]);
    const before = joined.current;
    joined.current = wires;
    const other = before !== "" && before !== wires;
    if (other) told.current.clear();
    void (other ? rewire(by, wiringOf(bench)) : Promise.resolve())
      .then(() => {
        for (const m of bench.modules) {
          const setup = setupOf(m);
          const text = JSON.stringify(setup);
          if (told.current.get(m.id) === text) continue;
          told.current.set(m.id, text);
          showThere(by, setup).catch(() => told.current.delete(m.id));
        }
      })
      .catch(() => undefined);
  }, [on, by, bench, setupOf]);
  return null;
}
