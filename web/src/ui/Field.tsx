import FormControl from "@mui/material/FormControl";
import Input from "@mui/material/Input";
import InputLabel from "@mui/material/InputLabel";
import { useId, useState } from "react";

interface Props {
  label: string;
  value: string;
  onChange: (value: string) => void;
  mono?: boolean;
  className?: string;
}

/** A line of text taken over with Enter or on leaving; Escape brings the old one back. */
export function Field({ label, value, onChange, mono, className }: Props) {
  const id = useId();
  const [draft, setDraft] = useState<string | null>(null);
  const keep = () => {
    if (draft !== null && draft !== value) onChange(draft);
    setDraft(null);
  };
  return (
    <FormControl fullWidth variant="standard" className={className}>
      <InputLabel htmlFor={id} shrink>
        {label}
      </InputLabel>
      <Input
        id={id}
        value={draft ?? value}
        sx={mono ? { fontFamily: "var(--mono)", fontSize: 14 } : { fontSize: 15 }}
        onChange={(e) => setDraft(e.target.value)}
        onBlur={keep}
        onKeyDown={(e) => {
          if (e.key === "Enter") keep();
          if (e.key === "Escape") setDraft(null);
        }}
      />
    </FormControl>
  );
}
