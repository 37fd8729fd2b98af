import css from "./StateDot.module.css";

/** Whether anything is open about a thing, by shape and colour; says it to those who point at it. */
export function StateDot({ open, title }: { open: boolean; title: string }) {
  return <span className={css.state} data-open={open || undefined} title={title} />;
}
