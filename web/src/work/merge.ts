/**
 * Brings together what two people made of one document at the same time: what core/bench/merge does in the program,
 * for what is not stored yet. A test holds the two against each other.
 */

/** A value of JSON; undefined where an object has no such member, or a list no such element. */
type Value = unknown;
type Entries = Record<string, Value>;

/** Whose value stands where both changed the same place. */
export type Side = "mine" | "theirs";

export interface Merged<T> {
  value: T;
  /** RFC 6901 pointers of what both changed, each in its own way. */
  clashes: string[];
}

/**
 * What a document becomes where two changed it at once: each place as whoever changed it left it. Parts that nobody
 * changed stay the same objects.
 */
export function merge<T>(base: T, mine: T, theirs: T, prefer: Side): Merged<T> {
  const clashes: string[] = [];
  const value = new Merger(prefer, clashes).value("", "", base, mine, theirs) as T;
  return { value, clashes };
}

const isEntries = (v: Value): v is Entries => typeof v === "object" && v !== null && !Array.isArray(v);

/** Whether two values say the same; a member without a value is none. */
export function alike(a: Value, b: Value): boolean {
  if (a === b) return true;
  if (Array.isArray(a)) return Array.isArray(b) && a.length === b.length && a.every((v, i) => alike(v, b[i]));
  if (!isEntries(a) || !isEntries(b)) return false;
  return keys(a, b).every((key) => alike(a[key], b[key]));
}

const keys = (...all: Entries[]): string[] => [...new Set(all.flatMap((o) => Object.keys(o)))].sort();

const escaped = (key: string) => key.replaceAll("~", "~0").replaceAll("/", "~1");

class Merger {
  constructor(
    private prefer: Side,
    private clashes: string[],
  ) {}

  /** Merges one place; name is the member of an object in which it stands, or whose list it is in. */
  value(path: string, name: string, base: Value, mine: Value, theirs: Value): Value {
    if (alike(base, theirs) || alike(mine, theirs)) return mine;
    if (alike(base, mine)) return theirs;
    if (isEntries(mine) && isEntries(theirs) && (base === undefined || base === null || isEntries(base)))
      return this.entries(path, base ?? {}, mine, theirs);
    if (Array.isArray(mine) && Array.isArray(theirs) && (base === undefined || base === null || Array.isArray(base))) {
      const out = this.list(path, name, (base ?? []) as Value[], mine, theirs);
      if (out) return out;
    }
    this.clashes.push(path);
    return this.prefer === "mine" ? mine : theirs;
  }

  private entries(path: string, base: Entries, mine: Entries, theirs: Entries): Entries {
    const out: Entries = {};
    for (const key of keys(base, mine, theirs)) {
      const v = this.value(`${path}/${escaped(key)}`, key, base[key], mine[key], theirs[key]);
      if (v !== undefined) out[key] = v;
    }
    return out;
  }

  private list(path: string, name: string, base: Value[], mine: Value[], theirs: Value[]): Value[] | undefined {
    const all = [base, mine, theirs];
    if (name === "rows" && all.every((l) => l.every((v) => typeof v === "string")))
      return this.texts(path, name, base, mine, theirs);
    for (const by of names) {
      const [a, b, c] = all.map((l) => named(l, name, by));
      if (a && b && c) return this.named(path, name, a, b, c);
    }
    return base.length === mine.length && base.length === theirs.length
      ? this.rows(path, name, base, mine, theirs)
      : undefined;
  }

  /** Merges rows of text. A row behind the end of one list is an empty one. */
  private texts(path: string, name: string, base: Value[], mine: Value[], theirs: Value[]): Value[] {
    let length = Math.max(mine.length, theirs.length);
    if (base.length === mine.length) length = theirs.length;
    else if (base.length === theirs.length) length = mine.length;
    const most = Math.max(base.length, mine.length, theirs.length);
    const padded = (l: Value[]) => [...l, ...Array<string>(most - l.length).fill("")];
    const out = this.rows(path, name, padded(base), padded(mine), padded(theirs));
    while (out.length > length && out.at(-1) === "") out.pop();
    return out;
  }

  /** Merges lists of one length, place by place. */
  private rows(path: string, name: string, base: Value[], mine: Value[], theirs: Value[]): Value[] {
    return base.map((v, i) => this.value(`${path}/${i}`, name, v, mine[i], theirs[i]));
  }

  /** Merges lists whose elements have names. */
  private named(path: string, name: string, base: Named, mine: Named, theirs: Named): Value[] {
    const { order, agreed } = ordered([...base.keys()], [...mine.keys()], [...theirs.keys()], this.prefer);
    if (!agreed) this.clashes.push(path);
    const out: Value[] = [];
    for (const key of order) {
      const v = this.value(`${path}/${out.length}`, name, base.get(key), mine.get(key), theirs.get(key));
      if (v !== undefined) out.push(v);
    }
    return out;
  }
}

/** The elements of a list by their names, in its order. */
type Named = Map<string, Value>;

/** By which members the elements of a list are told apart; none: it is a text that stands for itself. */
interface Naming {
  members: string[];
  only?: string;
}

/** Tried in turn: the first that names every element, and none twice, is taken. */
const names: Naming[] = [
  { members: ["id"] },
  { members: ["slot"] },
  { members: ["key"] },
  { members: ["part"], only: "placements" },
  { members: ["from", "to"] },
  { members: ["module", "step"] },
  { members: ["field", "input"] },
  { members: ["file", "section"] },
  { members: ["label"] },
  { members: ["name"] },
  { members: [], only: "done" },
  { members: [], only: "tags" },
];

function named(list: Value[], name: string, by: Naming): Named | undefined {
  if (by.only && by.only !== name) return undefined;
  const out: Named = new Map();
  for (const v of list) {
    const key = keyOf(v, by);
    if (key === undefined || out.has(key)) return undefined;
    out.set(key, v);
  }
  return out;
}

function keyOf(v: Value, by: Naming): string | undefined {
  if (by.members.length === 0) return typeof v === "string" ? v : undefined;
  if (!isEntries(v)) return undefined;
  const parts = by.members.map((m) => v[m]);
  return parts.every((p) => typeof p === "string" || typeof p === "number")
    ? parts.map((p) => JSON.stringify(p)).join("")
    : undefined;
}

/** The order of all elements, and whether at most one side moved those that all have. */
function ordered(base: string[], mine: string[], theirs: string[], prefer: Side) {
  const [was, first, second] = everywhere(base, theirs, mine);
  let lead = theirs;
  let other = mine;
  let agreed = true;
  if (!alike(first, second) && !alike(was, second)) {
    agreed = alike(was, first);
    if (agreed || prefer === "mine") [lead, other] = [mine, theirs];
  }
  return { order: woven(lead, other, base), agreed };
}

/** What stands in all of some lists, in the order of each. */
function everywhere(...lists: string[][]): string[][] {
  const sets = lists.map((l) => new Set(l));
  return lists.map((l) => l.filter((key) => sets.every((s) => s.has(key))));
}

/** The leading order, with what only the others have behind what stands before it there. */
function woven(lead: string[], ...others: string[][]): string[] {
  const out = [...lead];
  const there = new Set(out);
  for (const list of others)
    list.forEach((key, i) => {
      if (there.has(key)) return;
      there.add(key);
      const before = list[i - 1];
      out.splice(before === undefined ? 0 : out.indexOf(before) + 1, 0, key);
    });
  return out;
}
