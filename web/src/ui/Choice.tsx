import FormControl from "@mui/material/FormControl";
import InputLabel from "@mui/material/InputLabel";
import NativeSelect from "@mui/material/NativeSelect";
import { useId, type ReactNode } from "react";

interface Props {
  label: string;
  value: string | number;
  onChange: (value: string) => void;
  className?: string;
  /** option elements */
  children: ReactNode;
}

/** A choice of one, by the browser's own list: it works with keys and gloves. */
export function Choice({ label, value, onChange, className, children }: Props) {
  const id = useId();
  return (
    <FormControl fullWidth variant="standard" className={className}>
      <InputLabel htmlFor={id} shrink>
        {label}
      </InputLabel>
      <NativeSelect
        id={id}
        sx={{ fontSize: 15 }}
        value={value}
        onChange={(e) => {
          if (e.target.value !== String(value)) onChange(e.target.value); // what stands there is no choice
        }}
      >
        {children}
      </NativeSelect>
    </FormControl>
  );
}
