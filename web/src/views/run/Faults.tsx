import { useQuery } from "@tanstack/react-query";
import { faultsQuery, type FaultChoice } from "../../api/faults";
import { useBench } from "../../work/BenchContext";
import { useStep } from "../../work/StepContext";
import { useExtras } from "../../work/ExtrasContext";
import { List } from "../../ui/List";
import css from "./Transport.module.css";

const topics: [topic: string, title: string][] = [
  ["program", "Program"],
  ["wires", "Wires"],
  ["bus", "Bus"],
  ["supply", "Supply and contrast"],
];

/** Mistakes to make on purpose, to see on the glass what they look like: all that the catalogue has for this module. */
export function Faults() {
  const { setup } = useBench();
  const { choose } = useStep();
  const { extras, setExtras } = useExtras();
  const { data: faults } = useQuery(faultsQuery({ ...setup, joined: undefined }));
  const make = (fault: string) => {
    choose(null);
    setExtras({ ...extras, fault: fault || undefined });
  };
  const made = faults?.find((f) => f.id === extras.fault);
  return (
    <span className={css.faults}>
      <List
        aria-label="Mistake"
        title={made ? `${made.what} (${made.where})` : "A mistake made on purpose: see on the glass what it looks like"}
        value={extras.fault ?? ""}
        onChange={(e) => make(e.target.value)}
      >
        <option value="">No mistake</option>
        {topics.map(([topic, title]) => (
          <Group key={topic} title={title} faults={(faults ?? []).filter((f) => f.topic === topic)} />
        ))}
      </List>
    </span>
  );
}

function Group({ title, faults }: { title: string; faults: FaultChoice[] }) {
  if (faults.length === 0) return null;
  return (
    <optgroup label={title}>
      {faults.map((f) => (
        <option key={f.id} value={f.id}>
          {f.what}
        </option>
      ))}
    </optgroup>
  );
}
