import { setting } from "../ui/setting";

/** How many steps the tour has. */
export const STEPS = 7;

/** At which step the tour is, from 1; below 0, at which it was left; 0 where it was not begun, or ended. */
export const tour = setting<number>("slatebell-tour", (kept) => {
  const at = Number(kept);
  return Number.isInteger(at) && Math.abs(at) <= STEPS ? at : 0;
});
