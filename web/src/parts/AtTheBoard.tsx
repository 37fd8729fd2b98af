import { useState } from "react";
import type { Setup } from "../api/client";
import { scanThere, showThere } from "../api/realTable";
import { Quiet } from "../ui/Quiet";
import { hex } from "../ui/numbers";
import { reason } from "../work/reason";
import { useRealTable } from "../work/useRealTable";

/** Shows something on the real glass, the module initialised anew, where this page drives a board; slow waits 5 ms more a byte. */
export function ShowThere({ setup, slow, children }: { setup: Setup; slow?: boolean; children: string }) {
  const { by, drives } = useRealTable();
  const [said, say] = useState<string>();
  if (!drives) return null;
  const show = () =>
    void showThere(by, setup, true, slow).then(
      () => say("Sent: look at the glass."),
      (e: unknown) => say(reason(e)),
    );
  return (
    <p>
      <Quiet onClick={show}>{children}</Quiet> <span role="status">{said}</span>
    </p>
  );
}

/** Scans the real bus, where a board is connected, and hands on what answers. */
export function ScanThere({ onFound }: { onFound: (found: number[]) => string }) {
  const { table } = useRealTable();
  const [said, say] = useState<string>();
  if (!table?.connected) return null;
  const scan = () =>
    void scanThere().then(
      ({ found }) => {
        const list =
          found.length > 0
            ? `${found.map(hex).join(", ")} ${found.length > 1 ? "answer" : "answers"}.`
            : "Nobody answers.";
        say(`${list} ${onFound(found)}`);
      },
      (e: unknown) => say(reason(e)),
    );
  return (
    <p>
      <Quiet onClick={scan}>Scan the real bus</Quiet> <span role="status">{said}</span>
    </p>
  );
}
