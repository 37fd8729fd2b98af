import FormControl from "@mui/material/FormControl";
import InputLabel from "@mui/material/InputLabel";
import { useId, type ReactNode } from "react";

interface Props {
  label: string;
  className?: string;
  error?: boolean;
  /** The control, which takes the id that its label is for. */
  children: (id: string) => ReactNode;
}

/** A control with its label above. */
export function Labelled({ label, className, error, children }: Props) {
  const id = useId();
  return (
    <FormControl fullWidth variant="standard" className={className} error={error}>
      <InputLabel htmlFor={id} shrink>
        {label}
      </InputLabel>
      {children(id)}
    </FormControl>
  );
}
