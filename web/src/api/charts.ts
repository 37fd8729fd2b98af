import { keepPreviousData } from "@tanstack/react-query";
import { api, client, unwrap, type Bench, type Display, type Schemas } from "./client";

export type Shown = Schemas["Shown"];
export type Chart = Schemas["Chart"];
export type ChartCode = Schemas["ChartCode"];
export type SeenCode = Schemas["SeenCode"];

/** The screens that show the character ROM of a module. */
export const chartScreensQuery = (bench: Bench, module: number) =>
  api.queryOptions("post", "/api/charts/screens", { body: { bench, module } }, { staleTime: Infinity });

/** What a photograph shows of one of them. */
export const readChartPhotograph = async (display: Display, data: string) =>
  unwrap(await client.POST("/api/charts/photographs", { body: { display, data } }));

/** The chart that photographs of the screens make, with what an eye has seen. */
export const chartQuery = (display: Display, name: string, shown: Shown[], seen: SeenCode[]) =>
  api.queryOptions(
    "post",
    "/api/charts",
    { body: { display, name, shown, seen } },
    { placeholderData: keepPreviousData, gcTime: 30_000 },
  );
