import { api, client, unwrap, type Bench, type Schemas } from "./client";
import { watched } from "./progress";

export type Show = Schemas["Show"];
export type Scene = Schemas["Scene"];
export type End = Schemas["End"];
export type Input = Schemas["Input"];
export type Feed = Schemas["Feed"];
export type Edit = Schemas["Edit"];
export type Effect = Schemas["Effect"];
export type GroupRequest = Schemas["GroupRequest"];
export type Played = Schemas["Played"];
export type PlayedPart = Schemas["PlayedPart"];
export type PlayEvent = Schemas["PlayEvent"];
export type PlayInput = Schemas["PlayInput"];
export type PlayKey = Schemas["PlayKey"];
export type PlayScene = Schemas["PlayScene"];

/** Begins the shows of modules, and plays them with what has happened before. */
export const beginPlay = async (bench: Bench, modules: number[], events: PlayEvent[], untilMs: number) =>
  unwrap(await client.POST("/api/plays", { body: { bench, modules, events, untilMs } }));

/** Goes on with shows that were begun. */
export const playOn = async (id: string, body: Schemas["PlayOn"]) =>
  unwrap(await client.POST("/api/plays/{id}", { params: { path: { id } }, body }));

/** The change of a show that adds a scene or an input, or takes one away with all that names it. */
export const editShow = async (bench: Bench, module: number, what: Omit<Schemas["EditRequest"], "bench" | "module">) =>
  unwrap(await client.POST("/api/plays/edits", { body: { bench, module, ...what } }));

/** The change that adds several inputs which come as one. */
export const addInputs = async (bench: Bench, module: number, group: GroupRequest["group"]) =>
  unwrap(await client.POST("/api/plan/inputs/group", { body: { bench, module, group } }));

/** Where a show fell behind, and what would help. */
export const judgePlay = async (bench: Bench, module: number, events: PlayEvent[], untilMs: number, watch: string) =>
  unwrap(await client.POST("/api/plays/judge", { body: { bench, module, events, untilMs }, params: watched(watch) }));

/** Events as a file that the command line reads. */
export const eventsToCSV = async (inputs: Input[], events: PlayEvent[]): Promise<string> =>
  unwrap(await client.POST("/api/events", { body: { inputs, events } })).text;

/** Events of a file; an ApiError says what is wrong in which line. */
export const eventsFromCSV = async (inputs: Input[], text: string): Promise<PlayEvent[]> =>
  unwrap(await client.POST("/api/events", { body: { inputs, text } })).events;

/** Instruments by their standards, and what a resistor and a capacitor give for a fall. */
export const fallQuery = (fall: Schemas["FallRequest"]) =>
  api.queryOptions("post", "/api/fall", { body: fall }, { staleTime: Infinity, gcTime: 10_000 });
