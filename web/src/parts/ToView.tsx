import type { ReactNode } from "react";
import { Link } from "react-router-dom";
import { useHand } from "../ui/useMedia";
import { Quiet } from "../ui/Quiet";
import { useBench } from "../work/BenchContext";

/** Leads to the view in which what is missing is made, of the module that is worked on. */
export function ToView({ view, children }: { view: string; children: ReactNode }) {
  const { id, module } = useBench();
  const hand = useHand();
  return (
    <Quiet component={Link} to={`/benches/${id}/${module.id}/${view}`} size={hand ? "large" : "medium"}>
      {children}
    </Quiet>
  );
}
