import { keepPreviousData } from "@tanstack/react-query";
import createClient from "openapi-fetch";
import createQueries from "openapi-react-query";
import type { components, paths } from "./schema.gen";

export type Schemas = components["schemas"];
export type Bench = Schemas["Bench"];
export type Module = Schemas["Module"];
export type Screen = Schemas["Screen"];
export type BenchDocument = Schemas["BenchDocument"];
export type Summary = Schemas["Summary"];
export type Setup = Schemas["Setup"];
export type Display = Schemas["Display"];
export type Link = Schemas["Link"];
export type RunResult = Schemas["RunResult"];
export type Glass = Schemas["Glass"];
export type Step = Schemas["Step"];
export type Read = Schemas["Read"];
export type Finding = Schemas["Finding"];
export type Remedy = Schemas["Remedy"];
export type Moment = Schemas["Moment"];
export type ComposedCell = Schemas["ComposedCell"];
export type Controller = Schemas["ControllerState"];
export type LiveOperation = Schemas["LiveOperation"];
export type Instruction = Schemas["Instruction"];
export type SupplyFacts = Schemas["SupplyFacts"];
export type Way = Schemas["Way"];
export type Glyph = Schemas["Glyph"];
export type FieldOf = Schemas["Field"];
export type FieldFacts = Schemas["FieldFacts"];
export type Drawing = Schemas["Drawing"];
export type CutPicture = Schemas["CutPicture"];
export type CutCell = Schemas["CutCell"];
export type LoadingPlan = Schemas["LoadingPlan"];
export type ReadGlyphs = Schemas["ReadGlyphs"];
export type Waves = Schemas["Waves"];
export type ROMEntry = Schemas["ROMEntry"];
export type Catalog = Schemas["Catalog"];
export type Device = Schemas["Device"];
export type OwnPart = Schemas["OwnPart"];
export type OwnPin = Schemas["OwnPin"];
export type Host = Schemas["Host"];
export type Plan = Schemas["PlanResult"];
export type BusNode = Schemas["NodeFacts"];
export type Rail = Schemas["RailFacts"];
export type LinkChoice = Schemas["LinkChoice"];
export type ScanResult = Schemas["ScanResult"];
export type Beginning = Schemas["BeginRequest"];
export type Wiring = Schemas["Wiring"];
export type WiringResult = Schemas["WiringResult"];
export type Thing = Schemas["ThingFacts"];
export type PinSpot = Schemas["PinSpot"];
export type WireFacts = Schemas["WireFacts"];
export type Work = Schemas["WorkFacts"];
export type Joined = Schemas["Joined"];
export type Fitting = Schemas["Fitting"];
export type Mounting = Schemas["Mounting"];
export type LightStep = Schemas["FirstLightStep"];
export type LightFigures = Schemas["LightResult"];
export type ContrastFigures = Schemas["ContrastResult"];

/** Asks the program; what is not answered well is thrown as an ApiError. */
export const client = createClient<paths>();

/** The same as queries. What is asked is a query's key. */
export const api = createQueries(client);

/** A query whose answer holds as long as what was asked is the same; the last one stands until the next is there. */
export const lasting = { placeholderData: keepPreviousData, staleTime: Infinity, gcTime: 10_000 } as const;

/** A place of the glass that a text names; without an error's index, the detail names it. */
type PlaceSaid = Schemas["PlaceSaid"];

/** Problem details as the server writes them (RFC 9457). */
interface Problem {
  title?: string;
  detail?: string;
  errors?: { message?: string; location?: string }[] | null;
  places?: PlaceSaid[];
}

/** One thing that an error says, and the places in it. */
export interface Said {
  /** What is before the text: where in the document it is wrong. */
  at: string;
  text: string;
  places: PlaceSaid[];
}

function said(status: number, problem: Problem | undefined): Said[] {
  const places = problem?.places ?? [];
  if (!problem?.errors?.length)
    return [
      {
        at: "",
        text: problem?.detail ?? problem?.title ?? `the server answered ${status}`,
        places: places.filter((p) => p.error === undefined),
      },
    ];
  return problem.errors.map((e, i) => ({
    at: e.location ? `${e.location}: ` : "",
    text: e.message ?? "",
    places: places.filter((p) => p.error === i),
  }));
}

/** Error with the server's own words. */
export class ApiError extends Error {
  readonly status: number;
  readonly said: Said[];
  /** With a conflict: what is stored. */
  readonly current: BenchDocument | undefined;

  constructor(status: number, problem: (Problem & { current?: BenchDocument }) | undefined) {
    const list = said(status, problem);
    super(list.map((s) => s.at + s.text).join("; "));
    this.status = status;
    this.said = list;
    this.current = problem?.current;
  }
}

export const problemOf = (text: string): Problem | undefined => {
  try {
    return JSON.parse(text) as Problem;
  } catch {
    return undefined; // not the program's own words
  }
};

/** The answer, where it is a good one; else what the program says of it is thrown as an ApiError. */
async function good(response: Response): Promise<Response> {
  if (!response.ok) throw new ApiError(response.status, problemOf(await response.clone().text()));
  return response;
}

client.use({ onResponse: ({ response }) => good(response) });

/** Returns the data of an answer; what went wrong was thrown before. */
export const unwrap = <T>({ data }: { data?: T }): T => data as T;

/** The JSON documents of an answer that comes line by line, each as soon as it is there. */
export async function* lines<T>({ data }: { data?: unknown }): AsyncGenerator<T> {
  let rest = "";
  const reader = (data as ReadableStream<Uint8Array<ArrayBuffer>>).pipeThrough(new TextDecoderStream()).getReader();
  for (;;) {
    const { done, value } = await reader.read();
    if (done) return;
    const parts = (rest + value).split("\n");
    rest = parts.pop() ?? "";
    for (const part of parts) yield JSON.parse(part) as T;
  }
}

/**
 * Stores a change of a bench.
 * @param revision the one the change was made against
 * @param body the change, as the JSON of an RFC 6902 patch
 * @param page the page that made it
 * @param outlives whether the request goes on when the page is closed
 */
export async function patchBench(
  id: number,
  revision: number,
  body: string,
  page: string,
  outlives: boolean,
): Promise<Schemas["Patched"]> {
  const response = await fetch(`/api/benches/${id}?page=${encodeURIComponent(page)}`, {
    method: "PATCH",
    headers: { "Content-Type": "application/json-patch+json", "If-Match": `"${revision}"` },
    body,
    keepalive: outlives,
  });
  return (await (await good(response)).json()) as Schemas["Patched"];
}

/** Posts a JSON text; what is not answered well is thrown as an ApiError. */
export async function post<T>(path: string, body: string, signal?: AbortSignal): Promise<T> {
  const headers = { "Content-Type": "application/json" };
  return (await (await good(await fetch(path, { method: "POST", headers, body, signal: signal ?? null }))).json()) as T;
}

/** Stores a bench from a document of any version; an ApiError says what is wrong with it, and where. */
export const importBench = (text: string) => post<BenchDocument>("/api/benches/import", text);
