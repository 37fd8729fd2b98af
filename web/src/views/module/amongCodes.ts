import type { KeyboardEvent } from "react";

/** Goes by arrow keys among the buttons of a chart of codes, sixteen a row; those that are not to be chosen are left out. */
export function amongCodes(e: KeyboardEvent<HTMLElement>): void {
  const by = { ArrowLeft: -1, ArrowRight: 1, ArrowUp: -16, ArrowDown: 16 }[e.key];
  if (by === undefined) return;
  e.preventDefault();
  const buttons = [...e.currentTarget.querySelectorAll("button")];
  let to = buttons.findIndex((b) => b === document.activeElement) + by;
  while (buttons[to]?.disabled) to += by;
  buttons[to]?.focus();
}
