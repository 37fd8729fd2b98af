import Button, { type ButtonProps } from "@mui/material/Button";
import type { ElementType } from "react";

/** A button, or a link that looks like one, that does not ask for attention. */
export function Quiet<C extends ElementType = "button">(props: ButtonProps<C, { component?: C }>) {
  return <Button variant="outlined" color="inherit" {...props} />;
}
