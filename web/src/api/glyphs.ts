import { api, client, lasting, unwrap, type Bench, type Drawing, type Schemas } from "./client";

/** The library of glyphs that comes with the program. */
export const shippedQuery = api.queryOptions("get", "/api/glyphs/shipped", {}, { staleTime: Infinity });

/** Signs that fill or move. */
export const signsQuery = api.queryOptions("get", "/api/glyphs/signs", {}, { staleTime: Infinity });

/** What a text or a file has of glyphs, or where it cannot be read. */
export const readGlyphs = async (body: Schemas["ReadGlyphsRequest"]) =>
  unwrap(await client.POST("/api/glyphs/read", { body }));

/** The dots of a block of cells after an operation. */
export const drawCells = async (body: Schemas["DrawRequest"]) =>
  unwrap(await client.POST("/api/glyphs/draw", { body }));

/** Glyphs as text in a form. */
export const writtenQuery = (glyphs: Drawing[], to: Schemas["WriteGlyphsRequest"]["to"]) =>
  api.queryOptions("post", "/api/glyphs/write", { body: { glyphs, to } }, lasting);

/** A picture cut into glyphs. */
export const cutQuery = (body: Schemas["CutRequest"]) =>
  api.queryOptions("post", "/api/glyphs/cut", { body }, { enabled: body.data !== "", retry: false, ...lasting });

/** The glyphs of a bar, and the codes of its values. */
export const barQuery = (body: Schemas["BarRequest"]) =>
  api.queryOptions("post", "/api/glyphs/bar", { body }, { ...lasting, retry: false });

/** Large digits. */
export const digitsQuery = (body: Schemas["DigitsRequest"]) =>
  api.queryOptions("post", "/api/glyphs/digits", { body }, { ...lasting, retry: false });

/** What animating a glyph costs by its slot and by its cells. */
export const animateQuery = (body: Schemas["AnimateRequest"]) =>
  api.queryOptions("post", "/api/glyphs/animate", { body }, { ...lasting, retry: false });

/** The change that adds glyphs to a bench, renames a picture of them or fills a slot of one of its modules. */
export const editGlyphs = async (
  bench: Bench,
  module: number,
  what: Omit<Schemas["GlyphEditRequest"], "bench" | "module">,
) => unwrap(await client.POST("/api/glyphs/edits", { body: { bench, module, ...what } }));

/** The key that begins those of all loadings. */
export const loadingKey = ["post", "/api/glyphs/loading"] as const;

/** How the glyphs of a module's screens come into CGRAM, by the module's index. */
export const loadingQuery = (bench: Bench, module: number) =>
  api.queryOptions("post", "/api/glyphs/loading", { body: { bench, module } }, lasting);
