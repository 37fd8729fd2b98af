import { keepPreviousData, queryOptions } from "@tanstack/react-query";
import { client, unwrap, type LiveOperation, type Module, type Schemas } from "./client";

/** Moments are read this many at a time. */
export const MOMENT_PAGE = 64;

/** The bench that was changed last. */
export const latestBenchQuery = queryOptions({
  queryKey: ["bench", "latest"],
  queryFn: async () => {
    const list = unwrap(await client.GET("/api/benches"));
    const first = list[0];
    if (!first) throw new Error("there is no bench; start the program again to make one");
    return unwrap(await client.GET("/api/benches/{id}", { params: { path: { id: first.id } } }));
  },
  staleTime: Infinity,
});

export const catalogQuery = queryOptions({
  queryKey: ["catalog"],
  queryFn: async () => unwrap(await client.GET("/api/catalog")),
  staleTime: Infinity,
});

/** What a run has beside the module's screen. */
export interface Extras {
  /** Operations given by hand, after the screen. */
  live: LiveOperation[];
  /** A mistake made on purpose. */
  fault: Schemas["RunRequest"]["fault"];
  /** With a lost nibble: the step that loses it, counted from 1; the first character's where absent. */
  lostAt?: number;
}

export const noExtras: Extras = { live: [], fault: undefined };

/** The run of a module as it stands: a change of the module is another run. */
export const runQuery = (module: Module, extras: Extras) =>
  queryOptions({
    queryKey: ["run", module, extras],
    queryFn: async ({ signal }) => unwrap(await client.POST("/api/runs", { body: { module, ...extras }, signal })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 10_000,
  });

/** The instruction set of a module's controller. */
export const instructionsQuery = ({ technology, family }: Module) => {
  const of = technology === "vfd" ? (family ?? "vfd-function-set") : "lcd";
  return queryOptions({
    queryKey: ["instructions", of],
    queryFn: async () => unwrap(await client.GET("/api/instructions", { params: { query: { family: of } } })),
    staleTime: Infinity,
  });
};

/** The ROM of a module, code by code; only its ROM and chart matter. */
export const romQuery = (module: Module) =>
  queryOptions({
    queryKey: ["rom", module.rom, module.chart],
    queryFn: async () => unwrap(await client.POST("/api/rom", { body: module })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  });

/** What each way of toggling E costs for a module's screen. */
export const waysQuery = (module: Module) =>
  queryOptions({
    queryKey: ["ways", module],
    queryFn: async ({ signal }) => unwrap(await client.POST("/api/ways", { body: module, signal })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 10_000,
  });

/** What a module's screen costs over each kind of link. */
export const linksQuery = (module: Module) =>
  queryOptions({
    queryKey: ["links", module],
    queryFn: async ({ signal }) => unwrap(await client.POST("/api/links", { body: module, signal })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 10_000,
  });

/** The steps at which a run is to stop. */
export const stopsQuery = (run: string, at: string) =>
  queryOptions({
    queryKey: ["stops", run, at],
    queryFn: async ({ signal }) =>
      unwrap(await client.GET("/api/runs/{run}/stops", { params: { path: { run }, query: { at } }, signal })),
    staleTime: Infinity,
    gcTime: 10_000,
  });

/** Waveforms of the steps around one. */
export const wavesQuery = (run: string, from: number, to: number) =>
  queryOptions({
    queryKey: ["waves", run, from, to],
    queryFn: async ({ signal }) =>
      unwrap(await client.GET("/api/runs/{run}/waves", { params: { path: { run }, query: { from, to } }, signal })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 30_000,
  });

/** A page of moments of a run. */
export const momentsQuery = (run: string, page: number) =>
  queryOptions({
    queryKey: ["moments", run, page],
    queryFn: async ({ signal }) =>
      unwrap(
        await client.GET("/api/runs/{run}/moments", {
          params: { path: { run }, query: { from: page * MOMENT_PAGE, count: MOMENT_PAGE } },
          signal,
        }),
      ),
    staleTime: Infinity,
    gcTime: 30_000,
  });
