import NativeSelect from "@mui/material/NativeSelect";
import type { SelectHTMLAttributes } from "react";

/** A choice of one without a label beside it; name it by aria-label. Choice is the same with its label. */
export function List({
  className,
  value,
  onChange,
  disabled,
  children,
  ...select
}: SelectHTMLAttributes<HTMLSelectElement>) {
  return (
    <NativeSelect className={className} value={value} onChange={onChange} disabled={disabled} inputProps={select}>
      {children}
    </NativeSelect>
  );
}
