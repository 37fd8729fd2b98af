import { api, client, lasting, lines, unwrap, type Bench, type Schemas, type Setup } from "./client";

const kept = { ...lasting, retry: false } as const;

/** One screen of a module turned into another, by every strategy. */
export const transitionQuery = (from: Setup, to: Setup, shift: boolean) =>
  api.queryOptions("post", "/api/screens/transition", { body: { from, to, shift } }, kept);

export type MatrixChange = Schemas["MatrixChange"];
export type MatrixJudged = Schemas["MatrixJudged"];
type MatrixLine = Schemas["MatrixLine"];

/** Every change between the screens of a module, and every field: a line for each screen, as they are worked out, and one of all. */
export const matrixLines = async (bench: Bench, module: number, signal: AbortSignal) =>
  lines<MatrixLine>(await client.POST("/api/screens/matrix", { body: { bench, module }, parseAs: "stream", signal }));

/** A row that runs through the glass, frame by frame. */
export const scrollQuery = (setup: Setup) =>
  api.queryOptions("post", "/api/screens/scroll", { body: setup }, { enabled: Boolean(setup.scroll?.by), ...kept });

/** Where a text stands on the screens of a bench. */
export const searchQuery = (bench: Bench, text: string) =>
  api.queryOptions("post", "/api/screens/search", { body: { bench, text } }, { enabled: text.trim() !== "", ...kept });

export type Transition = Schemas["Transition"];
export type Strategy = Schemas["StrategyResult"]["strategy"];

/** A field for cells of a row, which shows what stands in them. */
export const guessField = async (body: Schemas["FieldRequest"]) =>
  unwrap(await client.POST("/api/screens/field", { body }));
