import ButtonBase from "@mui/material/ButtonBase";
import { styled } from "@mui/material/styles";

/** A button without a look of its own, which the style sheet of its view gives it: tiles, rows of a list, keys. */
export const Bare = styled(ButtonBase)({
  display: "inline-block",
  font: "inherit",
  alignItems: "normal",
  justifyContent: "normal",
});
