import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { Outlet, useLocation, useNavigate, useParams } from "react-router-dom";
import { benchQuery } from "../api/queries";
import { useHand } from "../ui/useMedia";
import { OpenBench } from "../work/OpenBench";
import { settled } from "../work/useSaving";
import { useViewThere } from "./chunks";
import { Notice, Opening } from "./Notice";
import { Tidings } from "./Tidings";

/** Opens the bench that the address names. */
export function BenchGate() {
  const { bench = "" } = useParams();
  return <Opened key={bench} id={Number(bench)} />;
}

function Opened({ id }: { id: number }) {
  const queries = useQueryClient();
  const { data, error, failureReason, refetch } = useQuery(benchQuery(id, () => settled(queries, id)));
  const { module = "" } = useParams();
  const { pathname } = useLocation();
  const navigate = useNavigate();
  const view = pathname.split("/")[4] ?? "screens";
  const select = useCallback((to: string) => void navigate(`/benches/${id}/${to}/${view}`), [navigate, id, view]);
  const hand = useHand();
  const there = useViewThere(hand ? "" : view);
  if (!data) {
    return <Notice what="The bench cannot be opened" why={error ?? failureReason} again={() => void refetch()} />;
  }
  if (!there) return <Opening />;
  return (
    <OpenBench document={data} selected={module} onSelect={select}>
      <Tidings document={data}>
        <Outlet />
      </Tidings>
    </OpenBench>
  );
}
