import { replaceEqualDeep } from "@tanstack/react-query";
import { applyPatch, createPatch, type Operation, type Pointer } from "rfc6902";
import type { Bench, Remedy } from "../api/client";
import type { Patches } from "./sync";

/** The RFC 6902 patch that makes one bench of another. Parts that both share cost nothing. */
export const changes = (before: Bench, after: Bench): Operation[] => createPatch(before, after, lists);

/** Whether two benches say the same. */
export const same = (a: Bench, b: Bench): boolean => changes(a, b).length === 0;

/** Parts that are stored without their members that say nothing: they are replaced as a whole. */
const whole = ["cursor", "scroll"];
const wholeIn = ["fields"];

const named = (at: Pointer, names: string[]): boolean => names.includes(at.tokens.at(-1) ?? "");

/** Whether a value is stored as none at all: what it would hold is added with it. */
function blank(value: unknown): boolean {
  if (typeof value !== "object" || value === null) return !value;
  for (const v of Object.values(value)) if (!blank(v)) return false;
  return true;
}

/**
 * Compares lists place by place between what both begin and end with, so that a long list takes no longer than its
 * length; values of other kinds are left to the library.
 */
function lists(before: unknown, after: unknown, at: Pointer): Operation[] | undefined {
  if (at.tokens.length > 1 && typeof after === "object" && before !== after && blank(before) && !blank(after))
    return [{ op: "add", path: at.toString(), value: after }];
  if (!Array.isArray(before) || !Array.isArray(after)) {
    const replaced = before && after && named(at, whole) && createPatch(before, after).length > 0;
    return replaced ? [{ op: "replace", path: at.toString(), value: after }] : undefined;
  }
  const most = Math.min(before.length, after.length);
  const equal = (i: number, j: number) =>
    before[i] === after[j] || createPatch(before[i], after[j], lists).length === 0;
  let head = 0;
  while (head < most && equal(head, head)) head++;
  let tail = 0;
  while (tail < most - head && equal(before.length - 1 - tail, after.length - 1 - tail)) tail++;
  const out: Operation[] = [];
  const both = Math.min(before.length, after.length) - tail;
  for (let i = head; i < both; i++) {
    const prefix = at.add(String(i)).toString();
    if (named(at, wholeIn)) out.push({ op: "replace", path: prefix, value: after[i] as unknown });
    else for (const op of createPatch(before[i], after[i], lists)) out.push({ ...op, path: prefix + op.path });
  }
  for (let i = before.length - tail; i > both; i--) out.push({ op: "remove", path: at.add(String(both)).toString() });
  for (let i = both; i < after.length - tail; i++) {
    out.push({ op: "add", path: at.add(String(i)).toString(), value: after[i] as unknown });
  }
  return out;
}

/** The bench with a patch applied; undefined where it cannot be. Parts that it leaves alone stay the same objects. */
function patched(bench: Bench, patch: unknown[]): Bench | undefined {
  const copy = structuredClone(bench);
  const failed = applyPatch(copy, structuredClone(patch) as Operation[]).some((e) => e !== null);
  return failed ? undefined : replaceEqualDeep(bench, copy);
}

/** Patches of benches. */
export const patches: Patches<Bench> = { between: changes, applied: patched };

/** The bench with a remedy applied, or why it cannot be. */
export function remedied(bench: Bench, remedy: Remedy): { bench?: Bench; error?: string } {
  const mended = patched(bench, remedy.patch);
  return mended
    ? { bench: mended }
    : { error: "The bench has changed since this was found; look at the findings as they are now." };
}
