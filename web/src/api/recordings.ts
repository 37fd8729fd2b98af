import { keepPreviousData, queryOptions } from "@tanstack/react-query";
import { ApiError, client, unwrap, type Bench, type Schemas } from "./client";
import { watched } from "./progress";

export type Held = Schemas["Held"];
export type Reading = Schemas["Reading"];
export type Channel = Schemas["Channel"];
export type Part = Schemas["Part"];
export type ChannelLevels = Schemas["ChannelLevels"];
export type RecordedOperation = Schemas["RecordedOperation"];
export type Instant = Schemas["Instant"];
export type StoodScreen = Schemas["StoodScreen"];
export type Comparison = Schemas["RecordingComparison"];
export type Effort = Schemas["Effort"];

/** What is said of samples and nothing else. */
export interface Samples {
  rate: string;
  channels: number;
}

/** Hands a recording over; a file of any size goes as it is. */
export async function dropRecording(file: File, samples?: Samples): Promise<Held> {
  const query = new URLSearchParams({ name: file.name });
  if (samples) {
    query.set("rate", samples.rate);
    query.set("channels", String(samples.channels));
  }
  const response = await fetch(`/api/recordings?${query}`, {
    method: "POST",
    headers: { "Content-Type": "application/octet-stream" },
    body: file,
  });
  const answer = (await response.json()) as Held;
  if (!response.ok) throw new ApiError(response.status, answer as object);
  return answer;
}

/** A recording of what a module's own program sends, with a fault made in it or none. */
export const recordOwn = async (bench: Bench, module: number, screen: number, fault: string) =>
  unwrap(await client.POST("/api/recordings/own", { body: { bench, module, screen, fault: fault || undefined } }));

/** How a recording is read. */
export interface Reader {
  bench: Bench;
  module: number;
  /** Channels by the lines that somebody says they are. */
  lines: Record<string, number>;
  /** The module's, where it is empty. */
  size: string;
}

/** What a recording shows, read by some lines as one of a module of some size. */
export const readingQuery = (id: string, by: Reader, watch: string) =>
  queryOptions({
    queryKey: ["reading", id, by.bench.modules[by.module]?.display, by.lines, by.size],
    queryFn: async () =>
      unwrap(
        await client.POST("/api/recordings/{recording}/reading", {
          params: { path: { recording: id }, ...watched(watch) },
          body: { bench: by.bench, module: by.module, lines: by.lines, size: by.size || undefined },
        }),
      ),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 0, // the program holds the last few
    retry: false,
  });

/** What is recorded from a time to another, ns, as it is drawn in so many columns. */
export const partOf = async (id: string, from: number, to: number, columns: number) =>
  unwrap(
    await client.GET("/api/recordings/{recording}/part", {
      params: { path: { recording: id }, query: { from, to, columns } },
    }),
  );

/** The module at a time, ns. */
export const instantOf = async (id: string, at: number) =>
  unwrap(
    await client.GET("/api/recordings/{recording}/instant", { params: { path: { recording: id }, query: { at } } }),
  );

export const OPERATIONS_PAGE = 200;

/** A page of the operations. */
export const operationsQuery = (id: string, page: number) =>
  queryOptions({
    queryKey: ["recorded operations", id, page],
    queryFn: async () =>
      unwrap(
        await client.GET("/api/recordings/{recording}/operations", {
          params: { path: { recording: id }, query: { from: page * OPERATIONS_PAGE, count: OPERATIONS_PAGE } },
        }),
      ),
    staleTime: Infinity,
    placeholderData: keepPreviousData,
  });

export type Sought = "text" | "byte" | "address" | "limit" | "operation" | "edge";

/** The next place of something after a time, or the one before it; undefined where there is none. */
export const searchIn = async (id: string, sought: Sought, text: string, from: number, back: boolean) =>
  unwrap(
    await client.GET("/api/recordings/{recording}/search", {
      params: { path: { recording: id }, query: { for: sought, text, from, back } },
    }),
  ).atNs;

/** The recording beside what the bench's program sends. */
export const comparisonQuery = (id: string, bench: Bench, module: number) =>
  queryOptions({
    queryKey: ["recording beside", id, bench.modules[module]],
    queryFn: async () =>
      unwrap(
        await client.POST("/api/recordings/{recording}/comparison", {
          params: { path: { recording: id } },
          body: { bench, module },
        }),
      ),
    staleTime: Infinity,
    placeholderData: keepPreviousData,
    retry: false,
  });

/** What the recording shows, as a bench. */
export const learntBench = async (id: string) =>
  unwrap(await client.POST("/api/recordings/{recording}/bench", { params: { path: { recording: id } } }));

/** Files that are made of a recording. */
export const files: { path: string; title: string }[] = [
  { path: "operations.csv", title: "Operations, CSV" },
  { path: "recording.vcd", title: "Levels, value change dump" },
  { path: "recording.csv", title: "Changes, CSV" },
  { path: "recording.zip", title: "Samples, zipped session" },
];

export const fileOf = (id: string, path: string) => `/api/recordings/${id}/${path}`;
