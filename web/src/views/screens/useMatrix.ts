import { useEffect, useReducer, useState } from "react";
import { matrixLines, type MatrixChange, type MatrixJudged } from "../../api/screens";
import type { Bench } from "../../api/client";

/** The table of all changes as far as it is worked out. What stood there before stays until what is new comes. */
export interface Matrix {
  /** By the screen that a change leads from, then by the one that it leads to. */
  rows: ReadonlyMap<number, ReadonlyMap<number, MatrixChange>>;
  judged: MatrixJudged | undefined;
  /** Rows of what was asked last that are there, and how many there will be; 0 before that is known. */
  done: number;
  of: number;
  /** It is being worked out. */
  busy: boolean;
  trouble: unknown;
}

type Event =
  | { kind: "begun" | "stopped" }
  | { kind: "row"; of: number; from: number; changes: MatrixChange[] }
  | { kind: "judged"; of: number; judged: MatrixJudged }
  | { kind: "failed"; trouble: unknown };

function reduce(was: Matrix, e: Event): Matrix {
  switch (e.kind) {
    case "begun":
      return { ...was, done: 0, busy: true };
    case "stopped":
      return { ...was, busy: false };
    case "row": {
      // Rows of a module that had more screens or fewer are of no use to this one.
      const rows = new Map(was.of === e.of ? was.rows : []);
      rows.set(e.from, new Map(e.changes.map((c) => [c.to, c])));
      return { ...was, rows, of: e.of, done: was.done + 1 };
    }
    case "judged":
      return { ...was, judged: e.judged, of: e.of, busy: false, trouble: undefined };
    case "failed":
      return { ...was, busy: false, trouble: e.trouble };
  }
}

/**
 * Works the table of all changes out, row by row, anew whenever what is asked changes.
 * @returns it, and what stops and begins again
 */
export function useMatrix(bench: Bench, module: number): { matrix: Matrix; stop: () => void; again: () => void } {
  const [matrix, tell] = useReducer(reduce, {
    rows: new Map(),
    judged: undefined,
    done: 0,
    of: 0,
    busy: true,
    trouble: undefined,
  });
  const [round, setRound] = useState(0);
  const [control, setControl] = useState<AbortController>();
  useEffect(() => {
    const control = new AbortController();
    const ask = async () => {
      tell({ kind: "begun" });
      setControl(control);
      for await (const line of await matrixLines(bench, module, control.signal)) {
        if (control.signal.aborted) return;
        if (line.row) tell({ kind: "row", of: line.of, ...line.row });
        if (line.judged) {
          tell({ kind: "judged", of: line.of, judged: line.judged });
          return;
        }
      }
      throw new Error("the answer broke off");
    };
    ask().catch((trouble: unknown) => {
      if (!control.signal.aborted) tell({ kind: "failed", trouble });
    });
    return () => control.abort();
  }, [bench, module, round]);
  return {
    matrix,
    stop: () => {
      control?.abort();
      tell({ kind: "stopped" });
    },
    again: () => setRound((n) => n + 1),
  };
}
