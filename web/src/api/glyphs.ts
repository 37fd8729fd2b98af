import { keepPreviousData, queryOptions } from "@tanstack/react-query";
import { client, unwrap, type Bench, type Drawing, type Schemas } from "./client";

/** The library of glyphs that comes with the program. */
export const shippedQuery = queryOptions({
  queryKey: ["shipped glyphs"],
  queryFn: async () => unwrap(await client.GET("/api/glyphs/shipped")),
  staleTime: Infinity,
});

/** Signs that fill or move. */
export const signsQuery = queryOptions({
  queryKey: ["signs"],
  queryFn: async () => unwrap(await client.GET("/api/glyphs/signs")),
  staleTime: Infinity,
});

/** What a text or a file has of glyphs, or where it cannot be read. */
export const readGlyphs = async (body: Schemas["ReadGlyphsRequest"]) =>
  unwrap(await client.POST("/api/glyphs/read", { body }));

/** The dots of a block of cells after an operation. */
export const drawCells = async (body: Schemas["DrawRequest"]) =>
  unwrap(await client.POST("/api/glyphs/draw", { body }));

/** Glyphs as text in a form. */
export const writtenQuery = (glyphs: Drawing[], to: Schemas["WriteGlyphsRequest"]["to"]) =>
  queryOptions({
    queryKey: ["written", glyphs, to],
    queryFn: async ({ signal }) => unwrap(await client.POST("/api/glyphs/write", { body: { glyphs, to }, signal })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 10_000,
  });

/** A picture cut into glyphs. */
export const cutQuery = (body: Schemas["CutRequest"]) =>
  queryOptions({
    queryKey: ["cut", body],
    queryFn: async ({ signal }) => unwrap(await client.POST("/api/glyphs/cut", { body, signal })),
    enabled: body.data !== "",
    retry: false,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 10_000,
  });

/** The glyphs of a bar, and the codes of its values. */
export const barQuery = (body: Schemas["BarRequest"]) =>
  queryOptions({
    queryKey: ["bar", body],
    queryFn: async ({ signal }) => unwrap(await client.POST("/api/glyphs/bar", { body, signal })),
    placeholderData: keepPreviousData,
    retry: false,
    staleTime: Infinity,
    gcTime: 10_000,
  });

/** Large digits. */
export const digitsQuery = (body: Schemas["DigitsRequest"]) =>
  queryOptions({
    queryKey: ["large digits", body],
    queryFn: async ({ signal }) => unwrap(await client.POST("/api/glyphs/digits", { body, signal })),
    placeholderData: keepPreviousData,
    retry: false,
    staleTime: Infinity,
    gcTime: 10_000,
  });

/** What animating a glyph costs by its slot and by its cells. */
export const animateQuery = (body: Schemas["AnimateRequest"]) =>
  queryOptions({
    queryKey: ["animate", body],
    queryFn: async ({ signal }) => unwrap(await client.POST("/api/glyphs/animate", { body, signal })),
    placeholderData: keepPreviousData,
    retry: false,
    staleTime: Infinity,
    gcTime: 10_000,
  });

/** How the glyphs of a module's screens come into CGRAM, by the module's index. */
export const loadingQuery = (bench: Bench, module: number) =>
  queryOptions({
    queryKey: ["loading", bench, module],
    queryFn: async ({ signal }) =>
      unwrap(await client.POST("/api/glyphs/loading", { body: { bench, module }, signal })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 10_000,
  });
