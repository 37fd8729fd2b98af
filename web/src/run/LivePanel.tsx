import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap, type Instruction } from "../api/client";
import { instructionsQuery, type Extras } from "../api/queries";
import { useBench } from "../bench/BenchContext";
import { useStep } from "../steps/StepContext";
import { binary, hex, time } from "../ui/numbers";
import css from "./LivePanel.module.css";

const faults: { value: NonNullable<Extras["fault"]>; title: string }[] = [
  { value: "no-init", title: "Forget the initialisation" },
  { value: "wrong-address", title: "Write to a wrong address" },
  { value: "lost-nibble", title: "Lose one nibble" },
];

/** Operations by hand, a card for each instruction, and mistakes on purpose. */
export function LivePanel() {
  const { module } = useBench();
  const { extras, setExtras, choose } = useStep();
  const { data: cards } = useQuery(instructionsQuery);
  const [text, setText] = useState("");
  const [error, setError] = useState("");
  const [open, setOpen] = useState(0);

  const send = async (what: string) => {
    try {
      const ops = unwrap(await client.POST("/api/live", { body: { text: what, module } }));
      setExtras({ ...extras, live: [...extras.live, ...ops] });
      choose(null);
      setError("");
      setText("");
    } catch (e) {
      setError(e instanceof Error ? e.message : String(e));
    }
  };
  const card = cards?.[open];
  return (
    <section className={css.panel} aria-label="By hand">
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void send(text);
        }}
      >
        <input
          className="entry"
          aria-label="Instruction or characters"
          placeholder="clear, 0x18, row 2, 'Bell'"
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
        <Button type="submit" variant="contained" size="small" disabled={!text.trim()}>
          Do it
        </Button>
      </form>
      {error && (
        <p role="alert" className={css.error}>
          {error}
        </p>
      )}
      {extras.live.length > 0 && (
        <p className={css.done}>
          Last by hand: {extras.live.at(-1)?.meaning}
          <Button size="small" onClick={() => setExtras({ ...extras, live: extras.live.slice(0, -1) })}>
            Take back
          </Button>
        </p>
      )}
      <div className={css.tabs}>
        <select
          className="entry"
          aria-label="Instruction"
          value={open}
          onChange={(e) => setOpen(Number(e.target.value))}
        >
          {cards?.map((c, i) => (
            <option key={c.name} value={i}>
              {c.name}
            </option>
          ))}
        </select>
        <select
          className="entry"
          aria-label="Mistake"
          value={extras.fault ?? ""}
          onChange={(e) => {
            choose(null);
            setExtras({ ...extras, fault: (e.target.value || undefined) as Extras["fault"] });
          }}
        >
          <option value="">No mistake</option>
          {faults.map((f) => (
            <option
              key={f.value}
              value={f.value}
              disabled={f.value === "wrong-address" && module.link.kind !== "backpack"}
            >
              {f.title}
            </option>
          ))}
        </select>
      </div>
      {card && <Card key={card.name} card={card} onSend={send} />}
    </section>
  );
}

/** One instruction, its bits to click. */
function Card({ card, onSend }: { card: Instruction; onSend: (what: string) => Promise<void> }) {
  const [value, setValue] = useState(card.rs ? 0x41 : card.base);
  const fields = card.fields;
  const fieldOf = (bit: number) => fields.find((f) => bit <= f.high && bit > f.high - f.width);
  return (
    <div className={css.card}>
      <p>
        {card.summary}{" "}
        <span className={css.faint}>{card.executeUs ? `Takes ${time(card.executeUs)} at 270 kHz.` : ""}</span>
      </p>
      <div className={css.bits} role="group" aria-label="Bits">
        {[7, 6, 5, 4, 3, 2, 1, 0].map((bit) => {
          const field = fieldOf(bit);
          const on = (value >> bit) & 1;
          return (
            <button
              key={bit}
              type="button"
              disabled={!field || card.rw}
              aria-pressed={on === 1}
              aria-label={`Bit ${bit}${field ? `, ${field.name}` : ""}`}
              title={field ? (field.numeric ? field.name : `${field.name}: ${on ? field.set : field.clear}`) : "fixed"}
              onClick={() => setValue(value ^ (1 << bit))}
            >
              <small>{field && bit === field.high ? field.name : ""}</small>
              {on}
            </button>
          );
        })}
      </div>
      <div className={css.doing}>
        <p className={css.faint}>
          <code>
            {hex(value)} = {binary(value)}
          </code>{" "}
          {fields
            .filter((f) => !f.numeric)
            .map((f) => ((value >> f.high) & 1 ? f.set : f.clear))
            .join(", ")}
        </p>
        {!card.rw && (
          <Button
            size="small"
            variant="outlined"
            onClick={() => void onSend(card.rs ? `data ${hex(value)}` : hex(value))}
          >
            Do {hex(value)}
          </Button>
        )}
      </div>
    </div>
  );
}
