import Button from "@mui/material/Button";
import { useRef, type ReactNode } from "react";
import { Icon } from "../ui/Icon";

/** A button that asks for the file of a bench. */
export function BenchFile({ onFile, children }: { onFile: (f: File) => void; children: ReactNode }) {
  const file = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button variant="outlined" onClick={() => file.current?.click()} startIcon={<Icon name="up" size={17} />}>
        {children}
      </Button>
      <input
        ref={file}
        type="file"
        hidden
        accept=".json,application/json"
        aria-label="Bench document"
        onChange={(e) => {
          const chosen = e.target.files?.[0];
          e.target.value = "";
          if (chosen) onFile(chosen);
        }}
      />
    </>
  );
}
