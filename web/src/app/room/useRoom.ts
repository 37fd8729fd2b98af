import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { meQuery, roomQuery, type Me, type RoomState } from "../../api/room";
import { reason } from "../../work/reason";

/** The room, and how it is changed; what could not be done is said. */
export function useRoom(enabled: boolean) {
  const queries = useQueryClient();
  const { data: room } = useQuery({ ...roomQuery, enabled });
  const [problem, setProblem] = useState("");
  const make = useCallback(
    async (act: () => Promise<RoomState>) => {
      setProblem("");
      try {
        const now = await act();
        queries.setQueryData(roomQuery.queryKey, now);
        queries.setQueryData(meQuery.queryKey, (me: Me | undefined) => me && { ...me, room: now.open });
      } catch (e) {
        setProblem(reason(e));
        void queries.invalidateQueries({ queryKey: roomQuery.queryKey });
      }
    },
    [queries],
  );
  return { room, problem, make: (act: () => Promise<RoomState>) => void make(act) };
}
