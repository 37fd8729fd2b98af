import Button from "@mui/material/Button";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router-dom";
import type { BenchDocument } from "../../api/client";
import { benchesQuery } from "../../api/queries";
import { BenchFile } from "../../parts/BenchFile";
import { openDemo, readBenchFile } from "../../work/beginnings";
import { reason } from "../../work/reason";
import { tour } from "../../work/tour";
import css from "./BeginView.module.css";

/** Ways to begin without a question: the demo, the tour through it, a file. */
export function OtherWays() {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [refused, setRefused] = useState("");
  const open = async (made: () => Promise<BenchDocument>, view: string) => {
    try {
      const { id, bench } = await made();
      await queries.invalidateQueries({ queryKey: benchesQuery.queryKey });
      void navigate(`/benches/${id}/${bench.modules[0]?.id ?? ""}/${view}`);
    } catch (e) {
      setRefused(reason(e));
    }
  };
  return (
    <section aria-label="Other ways to begin" className={css.others}>
      <p>Nothing at hand yet?</p>
      <Button variant="outlined" onClick={() => void open(openDemo, "screens")}>
        Open the demo
      </Button>
      <Button
        variant="outlined"
        onClick={() => {
          tour.set(1);
          void open(openDemo, "bench");
        }}
      >
        Take the tour, seven steps
      </Button>
      <BenchFile onFile={(f) => void open(() => readBenchFile(f), "bench")}>Open a file</BenchFile>
      {refused && <p role="alert">{refused}</p>}
    </section>
  );
}
