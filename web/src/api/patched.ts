import type { Operation } from "rfc6902";

/** What a token of a JSON pointer, RFC 6901, names. */
const named = (token: string) => token.replaceAll("~1", "/").replaceAll("~0", "~");

type Holder = Record<string, unknown>;

/**
 * A value with an RFC 6902 patch applied that adds, removes and replaces. The value itself stays as it is, and what the patch leaves alone
 * is the same object in both.
 */
export function patched(value: unknown, patch: Operation[]): unknown {
  const own = new Set<unknown>(); // copies that were made here
  const ownOf = (v: unknown): Holder => {
    if (own.has(v)) return v as Holder;
    const copy = (Array.isArray(v) ? [...(v as unknown[])] : { ...(v as object) }) as Holder;
    own.add(copy);
    return copy;
  };
  const held = ownOf({ "": value });
  for (const change of patch) {
    const names = change.path.split("/").map(named);
    const last = names.pop() ?? "";
    let at = held;
    for (const name of names) at = at[name] = ownOf(at[name]);
    if (change.op === "remove") {
      if (Array.isArray(at)) at.splice(Number(last), 1);
      else Reflect.deleteProperty(at, last);
    } else if (change.op === "add" && Array.isArray(at))
      at.splice(last === "-" ? at.length : Number(last), 0, change.value);
    else if (change.op === "add" || change.op === "replace") at[last] = change.value;
    else throw new TypeError(`a patch with ${change.op}`);
  }
  return held[""];
}
