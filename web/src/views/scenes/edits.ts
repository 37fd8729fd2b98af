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

/** A name as an id that others do not have. */
export function idFor(name: string, taken: string[]): string {
  const plain =
    name
      .toLowerCase()
      .normalize("NFD")
      .replace(/[^a-z0-9]+/g, "-")
      .replace(/^-+|-+$/g, "")
      .slice(0, 32) || "one";
  for (let n = 1; ; n++) {
    const id = n === 1 ? plain : `${plain}-${n}`;
    if (!taken.includes(id)) return id;
  }
}

/** A show with a scene more, behind the last. */
export function addScene(s: Show, screen: string, name: string): Show {
  const scenes = s.scenes ?? [];
  return {
    ...s,
    scenes: [
      ...scenes,
      {
        id: idFor(
          name,
          scenes.map((o) => o.id),
        ),
        name,
        screen,
      },
    ],
  };
}

/** A show without a scene, and without the ends that led to it. */
export function removeScene(s: Show, id: string): Show {
  const scenes = (s.scenes ?? [])
    .filter((o) => o.id !== id)
    .map((o) => ({ ...o, ends: o.ends?.filter((e) => e.next !== id) }));
  return { ...s, scenes, start: s.start === id ? undefined : s.start };
}

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

export function addInput(s: Show, kind: Input["kind"], name: string): Show {
  const inputs = s.inputs ?? [];
  return {
    ...s,
    inputs: [
      ...inputs,
      {
        id: idFor(
          name,
          inputs.map((o) => o.id),
        ),
        name,
        kind,
      },
    ],
  };
}

/** A show without an input, and without what listened to it. */
export function removeInput(s: Show, id: string): Show {
  return {
    ...s,
    inputs: (s.inputs ?? [])
      .filter((i) => i.id !== id)
      .map((i) => ({
        ...i,
        counter: i.counter && {
          ...i.counter,
          up: i.counter.up === id ? undefined : i.counter.up,
          down: i.counter.down === id ? undefined : i.counter.down,
        },
        serial: i.serial && { ...i.serial, reset: i.serial.reset === id ? undefined : i.serial.reset },
      })),
    feeds: (s.feeds ?? []).filter((f) => f.input !== id),
    scenes: (s.scenes ?? []).map((o) => ({
      ...o,
      ends: o.ends?.filter((e) => e.input !== id),
      edit: o.edit && { ...o.edit, keys: o.edit.keys?.filter((k) => k.input !== id) },
    })),
  };
}

export const changeInput = (s: Show, id: string, next: Partial<Input>): Show => ({
  ...s,
  inputs: (s.inputs ?? []).map((i) => (i.id === id ? { ...i, ...next } : i)),
});

export const addFeed = (s: Show, feed: Feed): Show => ({ ...s, feeds: [...(s.feeds ?? []), feed] });

export const removeFeed = (s: Show, at: number): Show => ({ ...s, feeds: (s.feeds ?? []).filter((_, i) => i !== at) });
