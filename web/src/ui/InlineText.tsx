import { useState } from "react";
import css from "./InlineText.module.css";

interface Props {
  label: string;
  value: string;
  placeholder: string;
  onChange: (value: string) => void;
  strong?: boolean;
}

/** Text edited in place: Enter keeps it, Escape brings the old one back. */
export function InlineText({ label, value, placeholder, onChange, strong }: Props) {
  const [draft, setDraft] = useState<string | null>(null);
  const keep = () => {
    if (draft !== null && draft !== value) onChange(draft.trim());
    setDraft(null);
  };
  return (
    <input
      className={css.text}
      data-strong={strong || undefined}
      aria-label={label}
      maxLength={80}
      placeholder={placeholder}
      value={draft ?? value}
      onChange={(e) => setDraft(e.target.value)}
      onBlur={keep}
      onKeyDown={(e) => {
        if (e.key === "Enter") e.currentTarget.blur();
        if (e.key === "Escape") setDraft(null);
      }}
    />
  );
}
