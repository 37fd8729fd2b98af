import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useState } from "react";
import { dropRecording, readingQuery, recordOwn, type Held, type Samples } from "../../api/recordings";
import { watchName } from "../../api/progress";
import { useBench } from "../../work/BenchContext";
import { reason } from "../../work/reason";
import { holdRecording, useHeldRecording } from "../../work/recordings";

/** The recording that is looked at: dropped, or made of the module's own program; read as one of the selected module. */
export function useRecording() {
  const { id, bench, module, screen } = useBench();
  const queries = useQueryClient();
  const now = useHeldRecording(id);
  const [busy, setBusy] = useState(false);
  const [refused, setRefused] = useState<string>();
  /** A file that says nothing of itself: its rate is asked for. */
  const [bare, setBare] = useState<File>();
  const [name] = useState(watchName);
  const at = bench.modules.indexOf(module);
  const hold = useCallback(
    async (take: () => Promise<Held>) => {
      setBusy(true);
      setRefused(undefined);
      try {
        holdRecording(id, { recording: await take(), lines: {}, size: "" });
        setBare(undefined);
      } catch (e) {
        setRefused(reason(e));
      }
      setBusy(false);
    },
    [id],
  );
  const drop = async (file: File | null | undefined, samples?: Samples) => {
    if (!file) return;
    if (!samples && /\.(bin|raw|dat)$/i.test(file.name)) {
      setRefused(undefined);
      setBare(file);
      return;
    }
    await hold(() => dropRecording(file, samples));
  };
  const own = (fault: string) =>
    hold(() => recordOwn(bench, at, bench.modules[at]?.screens.indexOf(screen) ?? 0, fault));
  const lines = now?.lines ?? {};
  const query = useQuery({
    ...readingQuery(now?.recording.id ?? "", { bench, module: at, lines, size: now?.size ?? "" }, name),
    enabled: now !== undefined,
  });
  const reading = now && query.data?.id.startsWith(now.recording.id) ? query.data : undefined;
  const open = reading?.findings.some((f) => f.severity !== "note");
  useEffect(() => {
    if (now && open !== undefined && now.open !== open) holdRecording(id, { ...now, open });
  }, [id, now, open]);
  return {
    recording: now?.recording,
    reading,
    watch: name,
    fetching: query.isFetching,
    trouble: query.error ? reason(query.error) : undefined,
    busy,
    refused,
    bare,
    drop,
    own,
    lines,
    setLines: (next: Record<string, number>) => now && holdRecording(id, { ...now, lines: next }),
    setSize: (size: string) => now && holdRecording(id, { ...now, size }),
    leave: () => {
      holdRecording(id, undefined);
      queries.removeQueries({ queryKey: ["reading", now?.recording.id] });
      setBare(undefined);
      setRefused(undefined);
    },
  };
}

export type Recording = ReturnType<typeof useRecording>;
