import Button from "@mui/material/Button";
import { useDeferredValue, useState, type ReactNode } from "react";
import type { Finding, WiringResult } from "../../api/client";
import "../../parts/board/colours.css";
import { Findings } from "../../parts/findings/Findings";
import { Tabs } from "../../ui/Tabs";
import { Trouble } from "../../parts/trouble/Trouble";
import { useBench } from "../../work/BenchContext";
import { useSteady } from "../../work/useSteady";
import { useWiring } from "../../work/useWiring";
import { BoardsBar } from "./BoardsBar";
import { Drawing, legible, type Picked } from "./Drawing";
import { FirstLight } from "./FirstLight";
import { MountPanel } from "./MountPanel";
import { PartCard } from "./PartCard";
import { Sheet } from "./Sheet";
import { useTableEdit } from "../../work/useTableEdit";
import { WorkList } from "./WorkList";
import css from "./WiringView.module.css";

/** The wiring: the board as it lies on the table, what it joins, the list to work from, and the first power-up. */
export default function WiringView() {
  const query = useWiring();
  // What a change comes to, until the bench is drawn with it: then the query has an answer of its own.
  const [next, setNext] = useState<{ after: WiringResult | undefined; answer: WiringResult }>();
  if (next && next.after !== query.data) setNext(undefined);
  const { data: result, landed, trouble, again } = useSteady(query, next?.answer);
  const show = (answer: WiringResult) => setNext({ after: query.data, answer });
  if (result)
    return (
      <Table result={result} landed={landed ?? result} show={show}>
        <Trouble trouble={trouble} stale again={again} />
      </Table>
    );
  if (trouble) return <Bare trouble={trouble} again={again} />;
  return <p>Laying the table…</p>;
}

/** The table was never worked out: what lies there can be planned afresh, or taken away. */
function Bare({ trouble, again }: { trouble: Error; again: () => void }) {
  const { change } = useBench();
  const edit = useTableEdit(undefined);
  const [why, setWhy] = useState<string>();
  return (
    <Trouble trouble={trouble} stale={false} again={again}>
      <Button variant="outlined" onClick={() => void edit.planAfresh().then(setWhy)}>
        Plan afresh
      </Button>
      <Button variant="outlined" onClick={() => change((b) => ({ ...b, wiring: undefined }))}>
        Clear the table
      </Button>
      {why && <p>{why}</p>}
    </Trouble>
  );
}

const tabs = [
  { id: "work", title: "Work" },
  { id: "part", title: "Part" },
  { id: "light", title: "First light" },
  { id: "mount", title: "Mounting" },
] as const;

type Tab = (typeof tabs)[number]["id"];

interface TableProps {
  result: WiringResult;
  /** The same, but where the bench is yet to be drawn with a change. */
  landed: WiringResult;
  show: (answer: WiringResult) => void;
  children: ReactNode;
}

function Table({ result, landed, show, children }: TableProps) {
  const { bench } = useBench();
  // Bar, list and sheet follow a frame after the drawing, its glass and what is found.
  const late = useDeferredValue(landed);
  const wiring = useDeferredValue(bench.wiring);
  const edit = useTableEdit(result, show);
  const [picked, setPicked] = useState<Picked>();
  const [zoom, setZoom] = useState(() => legible(result.bounds.w));
  const [tab, setTab] = useState<Tab>("work");
  const [pointed, setPointed] = useState<string[]>([]);
  const pick = (p: Picked) => {
    setPicked(p);
    if (p && ("thing" in p || tab !== "work")) setTab("part"); // a part opens its sheet
  };
  const wrong = result.findings.filter((f) => f.severity !== "note");
  return (
    <div className={css.view}>
      <div className={css.table}>
        <BoardsBar result={late} wiring={wiring} edit={edit} zoom={zoom} onZoom={setZoom} />
        {children}
        {result.why && <p role="alert">There is no plan: {result.why}.</p>}
        {wrong.length > 0 && (
          <p className={css.wrong} role="status">
            {wrong.length === 1 ? "One thing is" : `${wrong.length} things are`} not as the netlist asks. The glass
            shows what that does.
          </p>
        )}
        <Drawing
          result={result}
          edit={edit}
          picked={picked}
          onPick={pick}
          zoom={zoom}
          pointed={pointed.length > 0 ? pointed : wrong.flatMap((f) => f.pins ?? [])}
        />
        <Sheet result={late} name={bench.name} />
      </div>
      <aside className={css.side}>
        {result.findings.length > 0 && (
          <Findings
            findings={result.findings}
            onPlace={(f: Finding) =>
              f.pins && f.pins.length > 0 ? { name: f.pins[0] ?? "", go: () => setPointed(f.pins ?? []) } : undefined
            }
          />
        )}
        <Tabs label="Beside the drawing" tabs={tabs} value={tab} onChange={setTab} />
        {tab === "work" && !result.laid && result.plan && (
          <div className={css.propose}>
            <p>Nothing lies on the table yet. The drawing is what we would lay: no hole used twice, short wires.</p>
            <Button variant="contained" size="large" onClick={edit.take}>
              Lay it so
            </Button>
          </div>
        )}
        {tab === "work" && <WorkList result={late} edit={edit} picked={picked} onPick={setPicked} />}
        {tab === "part" && <PartCard result={result} edit={edit} picked={picked} />}
        {tab === "light" && <FirstLight result={result} onPick={setPicked} />}
        {tab === "mount" && <MountPanel />}
      </aside>
    </div>
  );
}
