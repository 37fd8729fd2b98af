import Checkbox from "@mui/material/Checkbox";
import type { ChangeEventHandler } from "react";

interface Props {
  checked: boolean;
  onChange: ChangeEventHandler<HTMLInputElement>;
}

/** Whether something holds, inside the label that has its words. Check is the same with them. */
export function Tick(props: Props) {
  return <Checkbox size="small" {...props} />;
}
