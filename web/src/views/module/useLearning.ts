import { useQueryClient, useQuery } from "@tanstack/react-query";
import { readChartPhotograph, type SeenCode, type Shown } from "../../api/charts";
import { PHOTOGRAPH, pictureOf } from "../../ui/pictures";
import { useBench } from "../../work/BenchContext";
import { reason } from "../../work/reason";

/** A photograph of a screen of the chart: what it shows, or why it is not read; neither while it is read. */
export interface Shot {
  id: string;
  name: string;
  shown?: Shown;
  refused?: string;
}

/** What is learnt of the ROM of a module. */
interface Learning {
  shots: Shot[];
  seen: SeenCode[];
}

const nothing: Learning = { shots: [], seen: [] };

/** What photographs and eyes say of the ROM of the selected module; it is kept while the page is open. */
export function useLearning() {
  const { id, module } = useBench();
  const queries = useQueryClient();
  const { geometry, controller, technology } = module.display;
  const key = ["learning", id, module.id, geometry, technology, controller.font ?? ""];
  const { data = nothing } = useQuery<Learning>({ queryKey: key, enabled: false, gcTime: Infinity });
  const set = (next: (l: Learning) => Learning) =>
    queries.setQueryData<Learning>(key, (before) => next(before ?? nothing));
  const tell = (id: string, of: Partial<Shot>) =>
    set((l) => ({ ...l, shots: l.shots.map((s) => (s.id === id ? { ...s, ...of } : s)) }));

  /** Reads photographs, one after the other. */
  const take = async (files: File[]) => {
    const list = files.map((file) => ({ file, id: crypto.randomUUID() }));
    set((l) => ({ ...l, shots: [...l.shots, ...list.map((s) => ({ id: s.id, name: s.file.name }))] }));
    for (const s of list) {
      try {
        const picture = await pictureOf(s.file, PHOTOGRAPH);
        tell(s.id, { shown: await readChartPhotograph(module.display, picture.data) });
      } catch (e) {
        tell(s.id, { refused: reason(e) });
      }
    }
  };
  const drop = (shot: string) => set((l) => ({ ...l, shots: l.shots.filter((s) => s.id !== shot) }));
  const see = (code: number, rows: number[]) =>
    set((l) => ({ ...l, seen: [...l.seen.filter((s) => s.code !== code), { code, rows }] }));
  const forget = () => set(() => nothing);
  return { ...data, take, drop, see, forget };
}
