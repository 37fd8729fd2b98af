import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import type { ChangeEvent, ReactNode } from "react";

interface Props {
  checked: boolean;
  onChange: (e: ChangeEvent<HTMLInputElement>) => void;
  disabled?: boolean;
  title?: string;
  /** What holds while it is ticked. */
  children: ReactNode;
}

/** Something that holds or not, with its words beside it. */
export function Check({ checked, onChange, disabled, title, children }: Props) {
  return (
    <FormControlLabel
      control={<Checkbox size="small" checked={checked} onChange={onChange} />}
      disabled={disabled}
      title={title}
      label={children}
    />
  );
}
