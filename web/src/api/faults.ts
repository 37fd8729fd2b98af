import { keepPreviousData, queryOptions } from "@tanstack/react-query";
import { api, client, lasting, unwrap, type Bench, type Schemas, type Setup } from "./client";
import { watched } from "./progress";

export type FindRequest = Schemas["FindRequest"];
export type FindResult = Schemas["FindResult"];
export type LikelyCause = Schemas["LikelyCause"];
export type TestChoice = Schemas["TestChoice"];
export type OutcomeChoice = Schemas["OutcomeChoice"];
export type FaultChoice = Schemas["FaultChoice"];
export type RoundState = Schemas["RoundState"];
export type Entry = Schemas["Entry"];

/** The faults that can be made in a module with its screen. */
export const faultsQuery = (setup: Setup) =>
  api.queryOptions("post", "/api/faults", { body: setup }, { ...lasting, gcTime: 30_000 });

/** A module of a bench with one of its screens. */
export interface Faulty {
  bench: Bench;
  module: number;
  screen: number;
}

/** What may be wrong, from what is seen; watch is the name under which it can be followed. */
export const findQuery = (body: FindRequest, watch: string) =>
  queryOptions({
    queryKey: ["find", body],
    queryFn: async ({ signal }) =>
      unwrap(await client.POST("/api/faults/find", { body, params: watched(watch), signal })),
    ...lasting,
    gcTime: 30_000,
    retry: false,
  });

/** The faults that may be hidden in a module. */
export const catalogueQuery = (of: Faulty) =>
  api.queryOptions("post", "/api/faults/catalogue", { body: of }, { staleTime: Infinity, gcTime: 30_000 });

/** Begins a round of practice; watch is the name under which it, and what is asked of a round, can be followed. */
export const beginRound = async (
  of: Faulty,
  what: Pick<Schemas["RoundRequest"], "level" | "topic" | "built">,
  watch: string,
) => unwrap(await client.POST("/api/practice", { body: { ...of, ...what }, params: watched(watch) }));

/** Carries a test out on the hidden fault. */
export const inspect = async (round: string, test: string, watch: string) =>
  unwrap(
    await client.POST("/api/practice/{round}/tests/{test}", { params: { path: { round, test }, ...watched(watch) } }),
  );

/** Asks for a hint. */
export const askHint = async (round: string, watch: string) =>
  unwrap(await client.POST("/api/practice/{round}/hints", { params: { path: { round }, ...watched(watch) } }));

/** Names the fault, which ends the round. */
export const answerRound = async (round: string, faults: string[], watch: string) =>
  unwrap(
    await client.POST("/api/practice/{round}/answer", {
      params: { path: { round }, ...watched(watch) },
      body: { faults },
    }),
  );

export interface LogFilter {
  kinds: string;
  module: string;
  text: string;
}

export const noFilter: LogFilter = { kinds: "", module: "", text: "" };

/** The key that begins those of all logs. */
export const logKey = ["get", "/api/benches/{id}/log"] as const;

/** What was written down at a bench. */
export const logQuery = (id: number, filter: LogFilter = noFilter) =>
  api.queryOptions(
    "get",
    "/api/benches/{id}/log",
    { params: { path: { id }, query: filter } },
    { placeholderData: keepPreviousData },
  );

/** Writes an entry into the log. */
export const addEntry = async (id: number, entry: Entry) =>
  unwrap(await client.POST("/api/benches/{id}/log", { params: { path: { id } }, body: entry }));

export const rewordEntry = async (id: number, entry: number, text: string) =>
  unwrap(await client.PATCH("/api/benches/{id}/log/{entry}", { params: { path: { id, entry } }, body: { text } }));

/** Deletes an entry; it has no answer but that it is done. */
export async function strikeEntry(id: number, entry: number): Promise<void> {
  await client.DELETE("/api/benches/{id}/log/{entry}", { params: { path: { id, entry } } });
}

/** Where the log is fetched as a file. */
export const logFile = (id: number, ending: "csv" | "md", filter: LogFilter): string =>
  `/api/benches/${id}/log.${ending}?${new URLSearchParams({ ...filter }).toString()}`;

/** Where a picture of an entry is. */
export const pictureURL = (id: number, entry: number, n: number): string =>
  `/api/benches/${id}/log/${entry}/pictures/${n}`;
