import { useQuery } from "@tanstack/react-query";
import { lazy, type ReactNode } from "react";
import { ApiError } from "../api/client";
import { meQuery } from "../api/room";
import { Knocks } from "./room/Knocks";

const JoinView = lazy(() => import("../views/join/JoinView"));

/** Its children, for the desk and for devices that were let in; others are asked for the code that the desk shows. */
export function Admitted({ children }: { children: ReactNode }) {
  const { error, isPending, failureReason } = useQuery(meQuery);
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
