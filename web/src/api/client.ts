import createClient from "openapi-fetch";
import type { components, paths } from "./schema.gen";

export type Schemas = components["schemas"];
export type Bench = Schemas["Bench"];
export type Module = Schemas["Module"];
export type Screen = Schemas["Screen"];
export type BenchDocument = Schemas["BenchDocument"];
export type RunResult = Schemas["RunResult"];
export type Glass = Schemas["Glass"];
export type Step = Schemas["Step"];
export type Read = Schemas["Read"];
export type Finding = Schemas["Finding"];
export type Remedy = Schemas["Remedy"];
export type Moment = Schemas["Moment"];
export type ComposedCell = Schemas["ComposedCell"];
export type Controller = Schemas["Controller"];
export type LiveOperation = Schemas["LiveOperation"];
export type Instruction = Schemas["Instruction"];
export type SupplyFacts = Schemas["SupplyFacts"];
export type Way = Schemas["Way"];
export type Glyph = Schemas["Glyph"];
export type Waves = Schemas["Waves"];
export type ROMEntry = Schemas["ROMEntry"];
export type Catalog = Schemas["Catalog"];

export const client = createClient<paths>();

/** Problem details as the server writes them (RFC 9457). */
interface Problem {
  title?: string;
  detail?: string;
  errors?: { message?: string; location?: string }[] | null;
}

/** Error with the server's own words. */
export class ApiError extends Error {
  readonly status: number;

  constructor(status: number, problem: Problem | undefined) {
    const details = (problem?.errors ?? []).map((e) => `${e.location}: ${e.message}`);
    super(details.length ? details.join("; ") : (problem?.detail ?? problem?.title ?? `the server answered ${status}`));
    this.status = status;
  }
}

/** Returns the data of an answer, or throws an ApiError. */
export function unwrap<T>(answer: { data?: T; error?: unknown; response: Response }): T {
  if (answer.data === undefined) throw new ApiError(answer.response.status, answer.error as Problem | undefined);
  return answer.data;
}

/** What an attempt failed with, in words. */
export const reason = (e: unknown): string => (e instanceof Error ? e.message : String(e));
