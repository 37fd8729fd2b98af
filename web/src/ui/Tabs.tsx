import css from "./Tabs.module.css";
import { Bare } from "./Bare";

interface Props<T extends string> {
  label: string;
  tabs: readonly { id: T; title: string }[];
  value: T;
  onChange: (id: T) => void;
}

/** What stands beside a drawing, one at a time. */
export function Tabs<T extends string>({ label, tabs, value, onChange }: Props<T>) {
  return (
    <div className={css.tabs} role="tablist" aria-label={label}>
      {tabs.map((t) => (
        <Bare key={t.id} role="tab" aria-selected={value === t.id} onClick={() => onChange(t.id)}>
          {t.title}
        </Bare>
      ))}
    </div>
  );
}
