import { merge } from "./merge";

/** A change of a document that others stored. */
export interface Change {
  revision: number;
  /** The revision that the patch is against. */
  from: number;
  patch: unknown[];
}

/** A document at a revision. */
export interface Revised<T> {
  revision: number;
  value: T;
}

/** How patches are made and applied. */
export interface Patches<T> {
  between: (before: T, after: T) => unknown[];
  /** The value with a patch applied; undefined where it cannot be. */
  applied: (value: T, patch: unknown[]) => T | undefined;
}

/** What is to be sent. */
export interface Sending {
  revision: number;
  patch: unknown[];
}

/**
 * A document that is changed here and elsewhere at once: what is stored as far as is known here, and what has been made
 * of it since. It computes only; who uses it sends, hears and shows.
 */
export class Sync<T> {
  private stored: T;
  private known: number;
  private value: T;
  /** What is under way to the program. */
  private under: T | undefined;
  /** What others stored meanwhile. */
  private heard: (Change | Revised<T>)[] = [];
  /** What others stored clashes with what was made here: the program is asked. */
  private torn = false;
  private lost = false;

  constructor(
    opened: Revised<T>,
    private patches: Patches<T>,
  ) {
    this.stored = this.value = opened.value;
    this.known = opened.revision;
  }

  get revision(): number {
    return this.known;
  }

  get now(): T {
    return this.value;
  }

  /** Whether all that was made here is stored. */
  get clean(): boolean {
    return this.value === this.stored;
  }

  /** Whether what others stored can only be known by opening the document anew. */
  get behind(): boolean {
    return this.lost;
  }

  get busy(): boolean {
    return this.under !== undefined;
  }

  /** What is sent while the page is closed: what was made after what is under way, against what that leads to. */
  get last(): Sending {
    return this.under === undefined
      ? { revision: this.known, patch: this.patches.between(this.stored, this.value) }
      : { revision: this.known + 1, patch: this.patches.between(this.under, this.value) };
  }

  /** Something was made here. */
  edit(value: T): void {
    this.value = value;
  }

  /** What is to be sent now, if anything; it is under way then, until it was answered or has failed. */
  send(): Sending | undefined {
    if (this.busy) return undefined;
    const patch = this.patches.between(this.stored, this.value);
    if (patch.length === 0) {
      this.stored = this.value;
      this.torn = false;
      this.catchUp();
      return undefined;
    }
    this.under = this.value;
    return { revision: this.known, patch };
  }

  /** What was sent did not arrive, or its answer did not. */
  failed(): void {
    this.under = undefined;
    this.catchUp();
  }

  /** What was sent is stored, merged with what others stored meanwhile where there is a rest. */
  answered(revision: number, rest: unknown[] | undefined): void {
    const sent = this.under as T;
    this.under = undefined;
    this.torn = false;
    const now = rest?.length ? this.patches.applied(sent, rest) : sent;
    if (now === undefined) this.lost = true;
    else if (merge(sent, this.value, now, "mine").clashes.length > 0)
      this.torn = true; // what was made since is sent against what was known before, so that the program asks
    else this.join(sent, { revision, value: now });
    this.catchUp();
  }

  /** What was sent as the page was left arrived, and the page came back. */
  arrived(sent: T, revision: number, rest: unknown[] | undefined): void {
    if (this.busy) return; // what is under way is answered by itself
    this.under = sent;
    this.answered(revision, rest);
  }

  /** Others stored something. */
  happened(what: Change | Revised<T>): void {
    if ("value" in what) this.lost = false;
    this.heard.push(what);
    this.catchUp();
  }

  /**
   * Settles a clash with what is stored: what only one side changed stands; for the rest what was made here does.
   * @returns what makes of the document as it is then one with the rest as it is stored, which may be taken as a change
   */
  settle(theirs: Revised<T>): (now: T) => T {
    this.under = undefined;
    this.torn = false;
    const other = merge(this.stored, this.value, theirs.value, "theirs").value;
    this.join(this.stored, theirs);
    const mine = this.value;
    this.catchUp();
    return (now) => (now === mine ? other : merge(mine, other, now, "mine").value);
  }

  private join(base: T, theirs: Revised<T>): void {
    const untouched = this.value === base;
    this.value = untouched ? theirs.value : merge(base, this.value, theirs.value, "mine").value;
    this.stored = theirs.value;
    this.known = theirs.revision;
  }

  /** Takes up what was heard. */
  private catchUp(): void {
    for (let next = this.heard[0]; next && !this.busy && !this.torn; next = this.heard[0]) {
      const value = next.revision <= this.known ? this.stored : "value" in next ? next.value : this.after(next);
      this.torn = value !== undefined && merge(this.stored, this.value, value, "mine").clashes.length > 0;
      if (this.torn) return;
      this.heard.shift();
      if (value === undefined) {
        this.lost = true;
        this.heard = [];
      } else if (next.revision > this.known) {
        this.join(this.stored, { revision: next.revision, value });
      }
    }
  }

  private after(change: Change): T | undefined {
    return change.from === this.known ? this.patches.applied(this.stored, change.patch) : undefined;
  }
}
