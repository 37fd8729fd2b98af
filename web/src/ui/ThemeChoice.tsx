import { useColorScheme } from "@mui/material/styles";
import { memo } from "react";
import { List } from "./List";

type Mode = NonNullable<ReturnType<typeof useColorScheme>["mode"]>;

const modes: [Mode, string][] = [
  ["dark", "Dark"],
  ["light", "Light"],
  ["system", "As the system"],
];

/** Which theme the page has. */
export const ThemeChoice = memo(function ThemeChoice() {
  const { mode, setMode } = useColorScheme();
  return (
    <List
      className="plain"
      aria-label="Theme"
      title="Theme"
      value={mode ?? "dark"}
      onChange={(e) => setMode(e.target.value as Mode)}
    >
      {modes.map(([value, title]) => (
        <option key={value} value={value}>
          {title}
        </option>
      ))}
    </List>
  );
});
