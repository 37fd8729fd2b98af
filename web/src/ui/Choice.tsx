import NativeSelect from "@mui/material/NativeSelect";
import type { ReactNode } from "react";
import { Labelled } from "./Labelled";

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
  return (
    <Labelled label={label} className={className}>
      {(id) => (
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
      )}
    </Labelled>
  );
}
