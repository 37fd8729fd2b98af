import Button from "@mui/material/Button";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { client, unwrap, type Instruction, type LiveOperation, type RunResult } from "../../api/client";
import { instructionsQuery, runQuery, type Extras } from "../../api/queries";
import { useBench } from "../../work/BenchContext";
import { useStep } from "../../work/StepContext";
import { useExtras } from "../../work/ExtrasContext";
import { hex } from "../../ui/numbers";
import { placed, useBase } from "../../ui/places";
import { useLatest } from "../../ui/useLatest";
import { reason } from "../../work/reason";
import { InstructionCard } from "./InstructionCard";
import { Straight } from "./Straight";
import { List } from "../../ui/List";
import { Check } from "../../ui/Check";
import { handThere } from "../../api/realTable";
import { useRealTable } from "../../work/useRealTable";
import { TextBox } from "../../ui/TextBox";
import css from "./LivePanel.module.css";

interface Props {
  run: RunResult;
  controllers: number;
}

/** Operations by hand, and a card for each instruction. */
export function LivePanel({ run, controllers }: Props) {
  const { bench, module, setup } = useBench();
  const { choose } = useStep();
  const { extras, setExtras } = useExtras();
  const { data: cards } = useQuery(instructionsQuery(module.display));
  const [text, setText] = useState("");
  const [error, setError] = useState("");
  const [open, setOpen] = useState(0);
  const [enable, setEnable] = useState<Enable>("both");
  const base = useBase();
  const { by, drives } = useRealTable();
  const [also, setAlso] = useState(true);
  const [there, setThere] = useState<number[]>();

  const latestRef = useLatest(extras);
  const queries = useQueryClient();
  const queue = useRef(Promise.resolve());

  /** Adds operations, each behind those before it; one that cannot be run is not added. */
  const add = (read: () => Promise<LiveOperation[]>) => {
    queue.current = queue.current.then(async () => {
      try {
        const ops = await read();
        const next: Extras = { ...latestRef.current, live: [...latestRef.current.live, ...ops] };
        await queries.fetchQuery(runQuery(setup, next));
        latestRef.current = next;
        setExtras(next);
        choose(null);
        setError("");
        if (drives && also) {
          setThere(await handThere({ by, module: bench.modules.indexOf(module), ops }));
        }
      } catch (e) {
        setError(reason(e));
        setText((now) => now || text); // what was refused comes back to be mended
      }
    });
  };
  const send = () => {
    add(async () => unwrap(await client.POST("/api/live", { body: { text, enable, setup, countFrom: base } })));
    setText("");
  };
  const card = cards?.[open];
  return (
    <section className={css.panel} aria-label="By hand">
      <form
        onSubmit={(e) => {
          e.preventDefault();
          send();
        }}
      >
        <TextBox
          aria-label="Instruction or characters"
          title="By name or number, a place, characters in quotes; behind an expander also a raw byte for its outputs, such as A5 or raw 14"
          placeholder={`clear, 0x18, row ${1 + base}, col ${4 + base}, 'Bell'`}
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
        <Button type="submit" variant="contained" size="small" disabled={!text.trim()}>
          Do it
        </Button>
      </form>
      <Straight
        onKey={(text) =>
          add(async () => unwrap(await client.POST("/api/live", { body: { text, enable, setup, countFrom: base } })))
        }
      />
      {drives && (
        <Check checked={also} onChange={(e) => setAlso(e.target.checked)}>
          on the real module too
        </Check>
      )}
      {drives && there && there.length > 0 && (
        <p role="status">
          The real module answers <code>{there.map(hex).join(" ")}</code>
        </p>
      )}
      {controllers > 1 && (
        <List
          aria-label="Controllers that take it"
          value={enable}
          onChange={(e) => setEnable(e.target.value as Enable)}
        >
          <option value="both">both controllers take it</option>
          <option value="E">
            the one behind E, rows {base}–{1 + base}
          </option>
          <option value="E2">
            the one behind E2, rows {2 + base}–{3 + base}
          </option>
        </List>
      )}
      {error && (
        <p role="alert" className={css.error}>
          {error}
        </p>
      )}
      {extras.live.length > 0 && (
        <Done run={run} onBack={() => setExtras({ ...extras, live: extras.live.slice(0, -1) })} />
      )}
      <List aria-label="Instruction" value={open} onChange={(e) => setOpen(Number(e.target.value))}>
        {cards?.map((c, i) => (
          <option key={c.name} value={i}>
            {c.name}
          </option>
        ))}
      </List>
      {card && (
        <InstructionCard
          key={card.name}
          card={card}
          onDo={(value) => add(() => Promise.resolve([operation(card, value, enable)]))}
        />
      )}
    </section>
  );
}

type Enable = NonNullable<LiveOperation["enable"]>;

function operation(card: Instruction, value: number, enable: Enable): LiveOperation {
  return { rs: card.rs, rw: card.rw, value, enable: card.rw && enable === "both" ? "E" : enable };
}

/** The last operation by hand, with what it read. */
function Done({ run, onBack }: { run: RunResult; onBack: () => void }) {
  const base = useBase();
  const last = run.program.steps.findLast((s) => s.kind === "live" || s.kind === "raw");
  const read = run.reads.find((r) => r.step === last?.index);
  return (
    <p className={css.done} role="status">
      <span>
        Done: {read?.meaning ?? placed(last?.meaning ?? "", last?.places, base)}
        {read && `, byte ${hex(read.value)}`}
      </span>
      <Button size="small" onClick={onBack}>
        Take back
      </Button>
    </p>
  );
}
