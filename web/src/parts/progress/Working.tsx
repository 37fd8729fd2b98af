import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { progressQuery } from "../../api/progress";
import { Progress } from "./Progress";

interface Props {
  /** The name of the request that is followed. */
  watch: string;
  /** What is said before it tells of itself. */
  says: string;
}

/** How long nothing is said, in ms: most answers are there before. */
const PATIENCE = 300;

/** How far a request has come that takes long; it asks for as long as it stands on the page. */
export function Working({ watch, says }: Props) {
  const [long, setLong] = useState(false);
  useEffect(() => {
    const timer = setTimeout(() => setLong(true), PATIENCE);
    return () => clearTimeout(timer);
  }, []);
  const { data } = useQuery({ ...progressQuery(watch), enabled: long });
  if (!long) return null;
  const known = data && data.of > 0;
  return <Progress doing={known ? data.doing : says} done={data?.done ?? 0} of={data?.of ?? 0} />;
}
