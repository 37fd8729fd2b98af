import { client, unwrap, type Display, type Glass, type Schemas } from "./client";
import type { Faulty } from "./faults";

export type Photograph = Schemas["Photograph"];
export type PhotoPoint = Schemas["PhotoPoint"];
export type PhotoCell = Schemas["PhotoCell"];

/** How a photograph is read. */
export interface Looking {
  /** Near those of the cells, or of the window; without them the window is found. */
  corners?: PhotoPoint[];
  /** Of whatever size is likeliest. */
  anySize?: boolean;
  /** What it may show. */
  among?: Glass[];
}

/** What a photograph of a module's glass shows. */
export const readPhotograph = async (of: Faulty, data: string, how: Looking) =>
  unwrap(await client.POST("/api/photographs", { body: { ...of, data, ...how } }));

/** Where the cells lie between corners. */
export const gridBetween = async (display: Display, corners: PhotoPoint[], gapX: number, gapY: number) =>
  unwrap(await client.POST("/api/photographs/grid", { body: { display, corners, gapX, gapY } })).cells.map(
    (c) => c.outline,
  );
