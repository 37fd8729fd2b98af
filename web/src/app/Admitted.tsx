import { useQuery } from "@tanstack/react-query";
import { lazy, useEffect, type ReactNode } from "react";
import { ApiError } from "../api/client";
import { meQuery } from "../api/room";
import { Knocks } from "./room/Knocks";

const JoinView = lazy(() => import("../views/join/JoinView"));

/** Its children, for the desk and for devices that were let in; others are asked for the code that the desk shows. */
export function Admitted({ children }: { children: ReactNode }) {
  const { data, error, isPending, failureReason } = useQuery(meQuery);
  const device = data?.desk === false;
  useEffect(() => {
    // Over plain HTTP the browser has none: the page then shows its last state as long as it stays open.
    if (device) navigator.serviceWorker?.register("/sleep.js").catch(() => undefined);
  }, [device]);
  const refused = error instanceof ApiError && error.status === 403;
  if (refused) return <JoinView />;
  if (isPending && !failureReason) return null;
  return (
    <>
      {children}
      <Knocks />
    </>
  );
}
