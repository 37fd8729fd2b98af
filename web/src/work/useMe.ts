import { useQuery } from "@tanstack/react-query";
import { meQuery, type Me } from "../api/room";

const nobody: Me = { desk: false, room: false };

/** Who this page is; nobody until that is known. */
export function useMe(): Me {
  return useQuery(meQuery).data ?? nobody;
}
