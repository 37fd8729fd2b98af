import { api, type Schemas } from "./client";

export type Condition = Schemas["Condition"];
export type Looked = Condition["checks"][number];

/** What the program stands on; looked over anew whenever it is asked for. */
export const conditionQuery = { ...api.queryOptions("get", "/api/condition"), staleTime: 0, gcTime: 0 };

/** Where a report is that can be sent, with those benches in it. */
export const reportOf = (benches: number[]) => {
  const asked = benches.map((id) => `bench=${id}`).join("&");
  return asked ? `/api/report?${asked}` : "/api/report";
};
