import type { ScanResult } from "../../api/client";

/** One address of a scan, held against the plan. */
export type Match = ScanResult["matches"][number];

/** How verdicts are called. */
export const verdicts: Record<Match["verdict"], string> = {
  expected: "as expected",
  unexpected: "unexpected",
  missing: "missing",
  moved: "moved",
};
