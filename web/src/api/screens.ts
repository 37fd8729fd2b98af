import { keepPreviousData, queryOptions } from "@tanstack/react-query";
import { client, unwrap, type Bench, type Schemas, type Setup } from "./client";

const kept = { placeholderData: keepPreviousData, retry: false, staleTime: Infinity, gcTime: 10_000 } as const;

/** One screen of a module turned into another, by every strategy. */
export const transitionQuery = (from: Setup, to: Setup, shift: boolean) =>
  queryOptions({
    queryKey: ["transition", from, to, shift],
    queryFn: async ({ signal }) =>
      unwrap(await client.POST("/api/screens/transition", { body: { from, to, shift }, signal })),
    ...kept,
  });

/** Every change between the screens of a module, and every field. */
export const matrixQuery = (bench: Bench, module: number) =>
  queryOptions({
    queryKey: ["matrix", bench, module],
    queryFn: async ({ signal }) =>
      unwrap(await client.POST("/api/screens/matrix", { body: { bench, module }, signal })),
    ...kept,
  });

/** A row that runs through the glass, frame by frame. */
export const scrollQuery = (setup: Setup) =>
  queryOptions({
    queryKey: ["scroll", setup],
    queryFn: async ({ signal }) => unwrap(await client.POST("/api/screens/scroll", { body: setup, signal })),
    enabled: Boolean(setup.scroll?.by),
    ...kept,
  });

/** Where a text stands on the screens of a bench. */
export const searchQuery = (bench: Bench, text: string) =>
  queryOptions({
    queryKey: ["search", bench, text],
    queryFn: async ({ signal }) => unwrap(await client.POST("/api/screens/search", { body: { bench, text }, signal })),
    enabled: text.trim() !== "",
    ...kept,
  });

export type Transition = Schemas["Transition"];
export type Strategy = Schemas["StrategyResult"]["strategy"];
