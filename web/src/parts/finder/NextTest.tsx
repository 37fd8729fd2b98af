import Button from "@mui/material/Button";
import { useState } from "react";
import type { Setup } from "../../api/client";
import type { Faulty, FindResult, OutcomeChoice, TestChoice } from "../../api/faults";
import { Glass } from "../glass/Glass";
import { CELL_COLS } from "../glass/metrics";
import { groundOf } from "../glass/paint";
import { tintOf } from "../glass/tints";
import { Photograph } from "../photo/Photograph";
import { ActThere, MeasureThere, OscillatorThere, ScanThere } from "../AtTheBoard";
import { useBench } from "../../work/BenchContext";
import { Copy } from "../../ui/Copy";
import { readOf, voltsOf, type Taken } from "./sheet";
import { List } from "../../ui/List";
import { Bare } from "../../ui/Bare";
import { Quiet } from "../../ui/Quiet";
import { TextBox } from "../../ui/TextBox";
import { Check } from "../../ui/Check";
import css from "./NextTest.module.css";

interface Props {
  of: Faulty;
  found: FindResult;
  tint: string | undefined;
  /** What is not at hand. */
  without: Missing[];
  onWithout: (list: Missing[]) => void;
  onTaken: (t: Taken) => void;
}

export type Missing = "meter" | "upload";

/** The next best test: what to do, and what each thing that one may see would mean; others may be chosen. */
export function NextTest({ of, found, tint, without, onWithout, onTaken }: Props) {
  const { setup } = useBench();
  const [other, setOther] = useState<string>();
  const test = found.tests.find((t) => t.id === other) ?? found.tests[0];
  if (!test)
    return (
      <section className={css.card} aria-label="Next test">
        <h2>Next test</h2>
        <p>
          {found.causes.length > 0 && found.settled
            ? "None is needed: one cause is as good as sure."
            : "No test tells these causes apart. Settle the first, and look again."}
        </p>
        <AtHand without={without} onWithout={onWithout} />
      </section>
    );
  return (
    <section className={css.card} aria-label="Next test">
      <header className={css.head}>
        <h2>
          {test === found.tests[0] ? "Next best test" : "Test"}:{" "}
          {test.title.charAt(0).toLowerCase() + test.title.slice(1)}
        </h2>
        <span className={css.cost}>
          {test.minutes} min{test.meter && ", with a meter"}
          {test.upload && ", with another program"}
        </span>
      </header>
      <p>{test.id === "text" ? "Send this text, and look which of these you see." : test.do}</p>
      {test.id === "text" && (
        <p className={css.text}>
          <Copy text={found.text.join("\n")} what="the test text">
            {found.text.map((row) => (
              <code key={row}>{row}</code>
            ))}
          </Copy>
        </p>
      )}
      <ByTheBoard key={test.id} test={test} text={found.text} setup={setup} onTaken={onTaken} />
      {test.volts && <Measured test={test} onTaken={onTaken} />}
      <Outcomes test={test} tint={tint} onTaken={onTaken} />
      {test.outcomes.some((o) => o.glass) && (
        <Photograph
          key={`photo ${test.id}`}
          of={of}
          name="Answered by a photograph"
          title="Answer by a photograph"
          among={test.outcomes.flatMap((o) => o.glass ?? [])}
        >
          {({ cells, rows, blank }) => (
            <Button
              variant="contained"
              onClick={() =>
                onTaken({
                  test: test.id,
                  title: test.title,
                  says: blank
                    ? "a photograph of a blank glass"
                    : `a photograph of ${rows.map((r) => `“${r}”`).join(", ")}`,
                  read: readOf(cells),
                })
              }
            >
              It is what I see then
            </Button>
          )}
        </Photograph>
      )}
      {found.tests.length > 1 && (
        <label className={css.other}>
          Or do another{" "}
          <List
            value={test.id}
            onChange={(e) => setOther(e.target.value === found.tests[0]?.id ? undefined : e.target.value)}
          >
            {found.tests.map((t) => (
              <option key={t.id} value={t.id}>
                {t.title} ({t.minutes} min)
              </option>
            ))}
          </List>
        </label>
      )}
      <AtHand without={without} onWithout={onWithout} />
    </section>
  );
}

/** What a board does by itself of a test: where it tells the answer too, that is taken. */
function ByTheBoard({
  test,
  text,
  setup,
  onTaken,
}: { test: TestChoice; text: string[]; setup: Setup } & Pick<Props, "onTaken">) {
  const taken = { test: test.id, title: test.title };
  switch (test.act) {
    case undefined:
      return null;
    case "scan":
      return (
        <ScanThere
          onFound={(answers) => {
            const o = test.outcomes.find((c) => c.scan && (c.found ?? []).join() === answers.join());
            if (o) onTaken({ ...taken, says: o.says, outcome: o.key });
            return o ? "" : "None of these faults gives that.";
          }}
        />
      );
    case "measure":
      return (
        <MeasureThere
          module={setup.at?.module ?? 0}
          what={test.id === "supply" ? "VDD" : "VO"}
          onMeasured={(mV) => {
            onTaken({ ...taken, says: `${(mV / 1000).toFixed(2)} V`, mV });
            return "";
          }}
        />
      );
    case "blink":
      return (
        <>
          <ActThere act="blink" setup={setup} />
          <OscillatorThere
            module={setup.at?.module ?? 0}
            onTimed={(kHz) => {
              const off = (o: OutcomeChoice) => Math.abs((o.kHz ?? Infinity) - kHz);
              const [o] = test.outcomes.filter((c) => c.kHz).sort((a, b) => off(a) - off(b));
              if (o) onTaken({ ...taken, says: o.says, outcome: o.key });
              return undefined;
            }}
          />
        </>
      );
    case "send":
      return (
        <ActThere
          act="send"
          setup={{ ...setup, rows: text, fields: undefined, cursor: undefined, scroll: undefined }}
        />
      );
  }
  return <ActThere act={test.act} setup={setup} />;
}

const things: { thing: Missing; title: string }[] = [
  { thing: "meter", title: "a meter" },
  { thing: "upload", title: "another program to send" },
];

/** What is at hand for tests; the others are not proposed. */
function AtHand({ without, onWithout }: Pick<Props, "without" | "onWithout">) {
  return (
    <p className={css.hand} role="group" aria-label="At hand">
      At hand:
      {things.map(({ thing, title }) => (
        <Check
          key={thing}
          checked={!without.includes(thing)}
          onChange={(e) => onWithout(e.target.checked ? without.filter((o) => o !== thing) : [...without, thing])}
        >
          {title}
        </Check>
      ))}
    </p>
  );
}

function Outcomes({ test, tint, onTaken }: { test: TestChoice } & Pick<Props, "tint" | "onTaken">) {
  const [all, setAll] = useState(false);
  const shown = all ? test.outcomes : test.outcomes.slice(0, FIRST);
  const more = test.outcomes.length - shown.length;
  return (
    <ul className={css.outcomes}>
      {shown.map((o) => (
        <li key={o.key}>
          <Bare
            onClick={() => onTaken({ test: test.id, title: test.title, says: o.says, outcome: o.key })}
            data-says={o.says}
          >
            {o.glass ? <Picture outcome={o} tint={tint} /> : <b>{o.says}</b>}
            <span className={css.means}>
              <b>{percent(o.chance)}</b> {o.causes[0]}
              {o.causes.length > 1 && ` … or ${o.causes.length > 2 ? "others" : "another"}`}
            </span>
          </Bare>
        </li>
      ))}
      {more > 0 && (
        <li>
          <Bare onClick={() => setAll(true)}>I see something else: {more} more</Bare>
        </li>
      )}
    </ul>
  );
}

/** How many outcomes are shown at first. */
const FIRST = 4;

function Picture({ outcome: o, tint }: { outcome: OutcomeChoice; tint: string | undefined }) {
  if (!o.glass) return null;
  const pitch = Math.max(0.6, Math.min(1.5, 150 / (o.glass.cols * CELL_COLS)));
  return (
    <span className={css.mini} style={{ background: groundOf(o.glass, tintOf(tint)) }}>
      <Glass glass={o.glass} tint={tint} pitch={pitch} name={o.says} />
    </span>
  );
}

/** A voltage that was measured, in place of the nearest that is listed. */
function Measured({ test, onTaken }: { test: TestChoice } & Pick<Props, "onTaken">) {
  const [text, setText] = useState("");
  const volts = voltsOf(text);
  const good = volts !== undefined;
  const take = () =>
    volts !== undefined &&
    onTaken({ test: test.id, title: test.title, says: `${volts.toFixed(2)} V`, mV: Math.round(volts * 1000) });
  return (
    <p className={css.measured}>
      <label>
        I measured{" "}
        <TextBox
          inputMode="decimal"
          value={text}
          aria-invalid={text.trim() !== "" && !good}
          onChange={(e) => setText(e.target.value)}
          onKeyDown={(e) => e.key === "Enter" && take()}
        />{" "}
        V
      </label>{" "}
      <Quiet disabled={!good} onClick={take}>
        Take it
      </Quiet>
      {text.trim() !== "" && !good && <span role="alert"> expected volts, such as 4.9</span>}
    </p>
  );
}

/** A share for people. */
export const percent = (share: number): string => (share < 0.005 ? "< 1 %" : `${Math.round(share * 100)} %`);
