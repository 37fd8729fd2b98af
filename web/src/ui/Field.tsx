import FormHelperText from "@mui/material/FormHelperText";
import Input from "@mui/material/Input";
import { useState } from "react";
import { Labelled } from "./Labelled";

interface Props {
  label: string;
  value: string;
  /** Takes the text over; what it returns says why it could not. */
  onChange: (value: string) => Promise<string | undefined>;
  mono?: boolean;
  /** What holds while it is empty. */
  placeholder?: string;
  /** An arrow key up or down steps what stands there; with Shift by ten. */
  onStep?: (text: string, steps: number) => void;
  className?: string;
}

/**
 * A line of text taken over with Enter or on leaving; Escape brings the old one
 * back. What cannot be taken over stays, with the reason below it.
 */
export function Field({ label, value, onChange, mono, placeholder, onStep, className }: Props) {
  const [draft, setDraft] = useState<string | null>(null);
  const [error, setError] = useState<string>();
  const keep = async () => {
    const given = draft;
    const why = given === null || given === value ? undefined : await onChange(given);
    setError(why);
    if (why === undefined) setDraft((now) => (now === given ? null : now)); // unless more was typed meanwhile
  };
  return (
    <Labelled label={label} className={className} error={error !== undefined}>
      {(id) => (
        <>
          <Input
            id={id}
            value={draft ?? value}
            placeholder={placeholder}
            sx={mono ? { fontFamily: "var(--mono)", fontSize: 14 } : { fontSize: 15 }}
            onChange={(e) => setDraft(e.target.value)}
            onBlur={() => void keep()}
            onKeyDown={(e) => {
              if (e.key === "Enter") void keep();
              if (e.key === "Escape") {
                setDraft(null);
                setError(undefined);
              }
              const way = { ArrowUp: 1, ArrowDown: -1 }[e.key];
              if (way && onStep) {
                e.preventDefault();
                onStep(draft ?? value, e.shiftKey ? 10 * way : way);
                setDraft(null);
                setError(undefined);
              }
            }}
          />
          {error !== undefined && (
            <FormHelperText role="alert" sx={{ fontSize: 14 }}>
              {error}
            </FormHelperText>
          )}
        </>
      )}
    </Labelled>
  );
}
