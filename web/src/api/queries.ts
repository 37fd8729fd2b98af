import { keepPreviousData, queryOptions } from "@tanstack/react-query";
import { client, unwrap, type Module } from "./client";

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

/** The run of a module as it stands: a change of the module is another run. */
export const runQuery = (module: Module) =>
  queryOptions({
    queryKey: ["run", module],
    queryFn: async ({ signal }) => unwrap(await client.POST("/api/runs", { body: { module }, signal })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 10_000,
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
