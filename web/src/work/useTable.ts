import { useCallback } from "react";
import type { Bench, Device, Host, OwnPart } from "../api/client";
import { client, unwrap } from "../api/client";
import { useBench } from "./BenchContext";
import { reason } from "./reason";

/** Changes of what else is on the bus, and of the host. */
export function useTable() {
  const { bench, change, remedy } = useBench();
  const setDevice = useCallback(
    (id: string, next: Partial<Device>) =>
      change(
        (b) => ({ ...b, devices: (b.devices ?? []).map((d) => (d.id === id ? { ...d, ...next } : d)) }),
        `${id} ${Object.keys(next).join()}`,
      ),
    [change],
  );
  const addDevice = useCallback(
    (like: Pick<Device, "part" | "address"> & Partial<Device>): string => {
      const ids = new Set((bench.devices ?? []).map((d) => d.id));
      let n = ids.size + 1;
      while (ids.has(`device-${n}`)) n++;
      const id = `device-${n}`;
      const fresh: Device = { ...like, id, name: like.id ? `${like.name || like.part} ${n}` : "" };
      change((b) => ({ ...b, devices: [...(b.devices ?? []), fresh] }));
      return id;
    },
    [bench.devices, change],
  );
  const removeDevice = useCallback(
    (id: string) => change((b) => ({ ...b, devices: (b.devices ?? []).filter((d) => d.id !== id) })),
    [change],
  );
  const setPart = useCallback(
    (id: string, next: Partial<OwnPart>) =>
      change(
        (b) => ({ ...b, parts: (b.parts ?? []).map((p) => (p.id === id ? { ...p, ...next } : p)) }),
        `${id} ${Object.keys(next).join()}`,
      ),
    [change],
  );
  const addPart = useCallback((): string => {
    const ids = new Set((bench.parts ?? []).map((p) => p.id));
    let n = ids.size + 1;
    while (ids.has(`part-${n}`)) n++;
    const fresh: OwnPart = {
      id: `part-${n}`,
      name: n > 1 ? `Part ${n}` : "Part",
      pins: [
        { name: "VCC", to: "5V" },
        { name: "GND", to: "GND" },
      ],
    };
    change((b) => ({ ...b, parts: [...(b.parts ?? []), fresh] }));
    return fresh.id;
  }, [bench.parts, change]);
  const removePart = useCallback(
    (id: string) =>
      change((b) => {
        const left = (b.parts ?? []).filter((p) => p.id !== id);
        return { ...b, parts: left.length > 0 ? left : undefined };
      }),
    [change],
  );
  const setBus = useCallback(
    (next: Partial<NonNullable<Bench["bus"]>>) => change((b) => ({ ...b, bus: { ...b.bus, ...next } })),
    [change],
  );
  const setHost = useCallback(
    async (host: Host): Promise<string | undefined> => {
      try {
        return remedy(unwrap(await client.POST("/api/plan/host", { body: { bench, host } })));
      } catch (e) {
        return reason(e);
      }
    },
    [bench, remedy],
  );
  return { setDevice, addDevice, removeDevice, setPart, addPart, removePart, setBus, setHost };
}
