import Button from "@mui/material/Button";
import { useState } from "react";
import type { Summary } from "../../api/client";
import { moment } from "../../ui/numbers";
import css from "./ShelfView.module.css";

interface Props {
  benches: Summary[];
  onRestore: (b: Summary) => void;
  onEmpty: () => void;
}

/** The benches that were taken away; they stay until the bin is emptied. */
export function Bin({ benches, onRestore, onEmpty }: Props) {
  const [sure, setSure] = useState(false);
  return (
    <section className={css.bin} aria-label="Bin">
      <h2>In the bin</h2>
      <ul>
        {benches.map((b) => (
          <li key={b.id}>
            <span>
              {b.name || "Unnamed bench"}{" "}
              <small>
                {b.modules.length === 1 ? "one module" : `${b.modules.length} modules`}, since{" "}
                {moment(b.binned ?? b.updated)}
              </small>
            </span>
            <Button size="small" onClick={() => onRestore(b)}>
              Take out
            </Button>
          </li>
        ))}
      </ul>
      {sure ? (
        <p>
          What is deleted cannot be brought back.{" "}
          <Button
            size="small"
            color="error"
            variant="outlined"
            onClick={() => {
              setSure(false);
              onEmpty();
            }}
          >
            Delete for good
          </Button>{" "}
          <Button size="small" onClick={() => setSure(false)}>
            Keep
          </Button>
        </p>
      ) : (
        <Button size="small" variant="outlined" onClick={() => setSure(true)}>
          Empty the bin
        </Button>
      )}
    </section>
  );
}
