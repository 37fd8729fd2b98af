import Input from "@mui/material/Input";
import { Labelled } from "./Labelled";

interface Props {
  label: string;
  value: string;
  onChange: (value: string) => void;
  /** A mark by which a view finds it. */
  mark?: string;
}

/** A line of text that counts as it is typed. Field is the same for what is taken over once it is whole. */
export function Line({ label, value, onChange, mark }: Props) {
  return (
    <Labelled label={label}>
      {(id) => (
        <Input
          id={id}
          value={value}
          sx={{ fontSize: 15 }}
          inputProps={{ maxLength: 80, spellCheck: false, "data-mark": mark }}
          onChange={(e) => onChange(e.target.value)}
        />
      )}
    </Labelled>
  );
}
