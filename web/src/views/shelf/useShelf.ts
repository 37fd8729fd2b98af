import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useRef, useState } from "react";
import { client, patchBench, unwrap, type Summary } from "../../api/client";
import { benchesQuery, binQuery } from "../../api/queries";
import { readBenchFile } from "../../work/beginnings";
import { reason } from "../../work/reason";
import { pageName } from "../../work/pageName";

/** What was done last, with a way back. */
interface Done {
  text: string;
  back?: () => Promise<unknown>;
}

/** What can be done with the benches on the shelf, what was done last, and why something could not be. */
export function useShelf() {
  const queries = useQueryClient();
  const [done, setDone] = useState<Done>();
  const [refused, setRefused] = useState<string>();
  const running = useRef(new Set<string>());
  /**
   * Does something to the shelf, shows it, and says why where it cannot be done. What has a key
   * is done once, however often it is pressed until the shelf shows it.
   */
  const act = useCallback(
    async (what: () => Promise<Done | undefined>, key?: string) => {
      if (key && running.current.has(key)) return;
      if (key) running.current.add(key);
      setRefused(undefined);
      try {
        setDone(await what());
      } catch (e) {
        setDone(undefined);
        setRefused(reason(e));
      }
      await Promise.all([
        queries.invalidateQueries({ queryKey: benchesQuery.queryKey }),
        queries.invalidateQueries({ queryKey: binQuery.queryKey }),
      ]);
      if (key) running.current.delete(key);
    },
    [queries],
  );

  const duplicate = (b: Summary) =>
    act(async () => {
      const copy = unwrap(await client.POST("/api/benches/{id}/copies", { params: { path: { id: b.id } } }));
      return { text: `Copied to “${copy.bench.name}”`, back: () => discard(copy.id) };
    });
  const restore = (b: Summary) =>
    act(async () => {
      await takeOut(b.id);
      return { text: `“${b.name}” is back on the shelf`, back: () => discard(b.id) };
    }, `restore ${b.id}`);
  const remove = (b: Summary) =>
    act(async () => {
      await discard(b.id);
      return { text: `“${b.name}” is in the bin`, back: () => takeOut(b.id) };
    }, `remove ${b.id}`);
  const read = (f: File | undefined) =>
    act(async () => {
      if (!f) return undefined;
      const made = await readBenchFile(f);
      return { text: `${f.name} is on the shelf as “${made.bench.name}”`, back: () => discard(made.id) };
    });
  return { done, refused, act, duplicate, restore, remove, read };
}

async function discard(id: number) {
  await client.DELETE("/api/benches/{id}", { params: { path: { id } } });
}

async function takeOut(id: number) {
  return unwrap(await client.POST("/api/benches/{id}/restore", { params: { path: { id } } }));
}

export async function rename(b: Summary, name: string): Promise<Done> {
  const send = (revision: number, to: string) =>
    patchBench(b.id, revision, JSON.stringify([{ op: "replace", path: "/name", value: to }]), pageName(), false);
  const { revision } = await send(b.revision, name);
  return { text: `“${b.name}” is now “${name}”`, back: () => send(revision, b.name) };
}
