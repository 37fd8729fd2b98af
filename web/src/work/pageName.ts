const NAME = "slatebell-page";

/** The name that this page gives itself, as long as its tab is open. */
export function pageName(): string {
  const kept = sessionStorage.getItem(NAME);
  if (kept) return kept;
  const made = `page-${crypto.getRandomValues(new Uint32Array(1))[0]?.toString(36) ?? "0"}`;
  sessionStorage.setItem(NAME, made);
  return made;
}
