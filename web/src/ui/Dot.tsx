import Radio from "@mui/material/Radio";
import type { ChangeEventHandler } from "react";

interface Props {
  /** Of all that exclude each other. */
  name: string;
  checked: boolean;
  disabled?: boolean;
  onChange: ChangeEventHandler<HTMLInputElement>;
  "aria-label"?: string;
}

/** One of several that exclude each other, inside the label that has its words. */
export function Dot({ "aria-label": label, ...radio }: Props) {
  return <Radio size="small" slotProps={{ input: { "aria-label": label } }} {...radio} />;
}
