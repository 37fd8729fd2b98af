import { useQuery } from "@tanstack/react-query";
import { benchesQuery } from "../api/queries";
import { Lead, Notice } from "./Notice";

/** Leads to the bench that was changed last, or to the three questions where there is none. */
export function LastBench() {
  const { data, error, failureReason, refetch } = useQuery(benchesQuery);
  if (data) return <Lead to={data[0] ? `/benches/${data[0].id}` : "/benches/new"} />;
  return <Notice what="The benches cannot be read" why={error ?? failureReason} again={() => void refetch()} />;
}
