import { useQuery } from "@tanstack/react-query";
import type { LightStep } from "../api/client";
import { firstLightQuery } from "../api/queries";
import { useBench } from "./BenchContext";
import { now, useNote, type Noted } from "./useLog";
import { useSteady } from "./useSteady";

/** The first power-up of the selected module, step by step, with what of it is done. */
export function useFirstLight() {
  const { bench, module, change } = useBench();
  const note = useNote();
  const index = bench.modules.indexOf(module);
  const of = {
    ...bench,
    modules: bench.modules.map((m) => (m === module ? m : { ...m, glyphs: undefined, show: undefined })),
    glyphs: undefined,
  };
  const { data: steps, trouble, again } = useSteady(useQuery(firstLightQuery(of, index)));
  const done = bench.wiring?.lit ?? [];
  const seen = (id: string) => done.find((l) => l.module === module.id && l.step === id);
  const set = (id: string, at: string | undefined) =>
    change((b) => ({
      ...b,
      wiring: {
        ...b.wiring,
        lit: [
          ...(b.wiring?.lit ?? []).filter((l) => !(l.module === module.id && l.step === id)),
          ...(at === undefined ? [] : [{ module: module.id, step: id, at }]),
        ],
      },
    }));
  const written = (e: Noted) => void note(e).catch(() => undefined); // the step stands in the bench all the same
  return {
    /** Index of the module, and the bench as far as the steps need it. */
    index,
    of,
    steps,
    trouble,
    again,
    /** When a step was done, by its id. */
    seen,
    set,
    /** Ticks a step off, and writes it into the log. */
    lit: (s: LightStep) => {
      set(s.id, now());
      written({ kind: "lit", text: `${s.title}: ${s.see}` });
    },
    measured: module.display.measured ?? {},
    /** Takes a measured voltage over, in millivolts, or drops it. */
    measure: (s: LightStep, value: number | undefined) => {
      const supply = s.id === "supply";
      if (value !== undefined)
        written({
          kind: "measured",
          text: `${s.title} (planned ${s.planned ?? 0} ${s.unit ?? ""}):`,
          value: { name: supply ? "VDD" : "VO", amount: value, unit: "mV" },
        });
      change((b) => ({
        ...b,
        modules: b.modules.map((m) =>
          m.id === module.id
            ? {
                ...m,
                display: { ...m.display, measured: { ...m.display.measured, [supply ? "supplyMV" : "voMV"]: value } },
              }
            : m,
        ),
      }));
    },
  };
}

/** What is wrong with a voltage that was measured in a step, in millivolts. */
export function refused(s: LightStep, mV: number): string | undefined {
  const [low, high] = s.id === "supply" ? [2700, 5500] : [-6000, 6000];
  return mV >= low && mV <= high ? undefined : `expected ${low}–${high} mV`;
}

export type FirstLight = ReturnType<typeof useFirstLight>;
