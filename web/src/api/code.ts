import { api, client, lasting, unwrap, type Bench, type Schemas } from "./client";

export type Code = Schemas["WrittenCode"];
export type CodeFile = Schemas["CodeFile"];
export type Language = Schemas["WrittenCode"]["language"];

/** A bench, or one of its modules (-1: all), as a program. */
export const codeQuery = (bench: Bench, module: number, language: Language | undefined) =>
  api.queryOptions("post", "/api/code", { body: { bench, module, language } }, { ...lasting, retry: false });

/** A small program for a module (-1: all), in each form that the bench's host takes. */
export const writeTool = async (bench: Bench, module: number, tool: Schemas["ToolRequest"]["tool"]) =>
  unwrap(await client.POST("/api/code/tools", { body: { bench, module, tool } }));

/** Builds it as C with this machine's avr-gcc. */
export const buildCode = async (bench: Bench, module: number) =>
  unwrap(await client.POST("/api/code/build", { body: { bench, module } }));

/** What its user wrote into the own sections of files that were written before. */
export const readOwn = async (files: Schemas["ToolFile"][]) =>
  unwrap(await client.POST("/api/code/own", { body: { files } }));
