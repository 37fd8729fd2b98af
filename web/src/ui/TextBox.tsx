import Input from "@mui/material/Input";
import type { InputHTMLAttributes, Ref } from "react";

interface Props extends Omit<InputHTMLAttributes<HTMLInputElement | HTMLTextAreaElement>, "color" | "size"> {
  ref?: Ref<HTMLInputElement>;
  /** Characters that it is wide, and rows that it is high where it has several. */
  size?: number;
  rows?: number;
}

/** Text to be typed without a label beside it, where that would take too much room; name it by aria-label. Line is the same with one. */
export function TextBox({
  className,
  style,
  value,
  defaultValue,
  autoFocus,
  ref,
  onChange,
  onFocus,
  onBlur,
  onKeyDown,
  ...input
}: Props) {
  return (
    <Input
      className={className}
      style={style}
      value={value}
      defaultValue={defaultValue}
      autoFocus={autoFocus}
      inputRef={ref}
      error={input["aria-invalid"] === true}
      inputComponent={input.rows ? "textarea" : undefined}
      inputProps={input}
      onChange={onChange}
      onFocus={onFocus}
      onBlur={onBlur}
      onKeyDown={onKeyDown}
    />
  );
}
