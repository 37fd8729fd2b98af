import type { Module } from "../../api/client";
import type { End, Feed, Input, Scene, Show } from "../../api/plays";
import { lean } from "../../work/fields";

/** A module with another show; one that says nothing is not stored. */
export function withShow(m: Module, change: (s: Show) => Show): Module {
  const { scenes = [], inputs = [], feeds = [], start } = change(m.show ?? {});
  const show: Show = {};
  if (start) show.start = start;
  if (scenes.length > 0) show.scenes = scenes.map(leanScene);
  if (inputs.length > 0) show.inputs = inputs.map(leanInput);
  if (feeds.length > 0) show.feeds = feeds.map((f) => lean(f, ["field", "input"]));
  return { ...m, show: Object.keys(show).length > 0 ? show : undefined };
}

const leanScene = (s: Scene): Scene => {
  const edit = s.edit?.field ? lean(s.edit) : undefined;
  const keys = s.edit?.keys?.map((k) => lean(k, ["does", "input"]));
  const out: Scene = { id: s.id, screen: s.screen };
  if (s.name) out.name = s.name;
  if (s.off) out.off = true;
  if (s.ends?.length) out.ends = s.ends.map(leanEnd);
  if (edit) out.edit = keys?.length ? { ...edit, keys } : edit;
  if (s.effect?.kind) out.effect = lean(s.effect);
  return out;
};

const leanEnd = (e: End): End => {
  const levelled = e.on === "above" || e.on === "below";
  return lean(e, levelled ? ["next", "level"] : ["next"]);
};

const leanInput = (i: Input): Input => lean(i, ["id", "kind"]);

export const changeScene = (s: Show, id: string, next: Partial<Scene>): Show => ({
  ...s,
  scenes: (s.scenes ?? []).map((o) => (o.id === id ? { ...o, ...next } : o)),
});

export const changeEnd = (s: Show, id: string, at: number, next: Partial<End>): Show =>
  changeScene(s, id, {
    ends: ((s.scenes ?? []).find((o) => o.id === id)?.ends ?? []).map((e, i) => (i === at ? { ...e, ...next } : e)),
  });

/** A show with an end of a scene more. */
export const addEnd = (s: Show, id: string, end: End): Show =>
  changeScene(s, id, { ends: [...((s.scenes ?? []).find((o) => o.id === id)?.ends ?? []), end] });

export const removeEnd = (s: Show, id: string, at: number): Show =>
  changeScene(s, id, { ends: ((s.scenes ?? []).find((o) => o.id === id)?.ends ?? []).filter((_, i) => i !== at) });

export const changeInput = (s: Show, id: string, next: Partial<Input>): Show => ({
  ...s,
  inputs: (s.inputs ?? []).map((i) => (i.id === id ? { ...i, ...next } : i)),
});

export const addFeed = (s: Show, feed: Feed): Show => ({ ...s, feeds: [...(s.feeds ?? []), feed] });

export const removeFeed = (s: Show, at: number): Show => ({ ...s, feeds: (s.feeds ?? []).filter((_, i) => i !== at) });
