import Button from "@mui/material/Button";
import type { Faulty, FindResult } from "../../api/faults";
import { Glass } from "../glass/Glass";
import { CELL_COLS, rowPitch } from "../glass/metrics";
import { groundOf } from "../glass/paint";
import { tintOf } from "../glass/tints";
import { Photograph } from "../photo/Photograph";
import { Quiet } from "../../ui/Quiet";
import { Bare } from "../../ui/Bare";
import { ReadBack } from "./ReadBack";
import { SeenGlass } from "./SeenGlass";
import { blank, looks, readOf, untouched, voltsOf, type Sheet } from "./sheet";
import { TextBox } from "../../ui/TextBox";
import css from "./SeenPanel.module.css";

interface Props {
  of: Faulty;
  found: FindResult;
  sheet: Sheet;
  tint: string | undefined;
  refused: string | undefined;
  /** The module is a liquid crystal, with contrast and backlight; and it is on a bus. */
  vo: boolean;
  bus: boolean;
  onChange: (next: Sheet) => void;
}

/** CSS pixels that the glasses of this panel may take across. */
const WIDTH = 372;

/** What one sees: typed, pointed at, or chosen among pictures that the rig draws. */
export function SeenPanel({ of, found, sheet, tint, refused, vo, bus, onChange }: Props) {
  const { sent } = found;
  const pitch = Math.max(
    1,
    Math.min(3.4, Math.floor((2 * Math.min(WIDTH, window.innerWidth - 44)) / (sent.cols * CELL_COLS + 4)) / 2),
  );
  const set = (next: Partial<Sheet>) => onChange({ ...sheet, ...next });
  const small = Math.max(0.6, Math.min(1.1, 112 / (sent.cols * CELL_COLS)));
  return (
    <section className={css.panel} aria-label="What you see">
      <header className={css.head}>
        <h2>What do you see?</h2>
        <Quiet disabled={untouched(sheet)} onClick={() => onChange(blank(sheet.cells.length, sheet.begun + 1))}>
          Begin again
        </Quiet>
      </header>
      <p className={css.lead}>Type what stands on the real glass, photograph it, or choose what looks like it.</p>
      <SeenGlass
        key={sheet.begun}
        glass={found.seen}
        cells={sheet.cells}
        tint={tint}
        pitch={pitch}
        onType={(cells) =>
          set({
            cells,
            typed: cells.some((c) => c !== " "),
            read: sheet.read?.map((r, i) => (cells[i] === sheet.cells[i] ? r : { ...r, sure: 0 })),
            look: undefined,
          })
        }
      />
      {refused && (
        <p role="alert" className={css.refused}>
          {refused}
        </p>
      )}
      <ReadBack
        module={of.module}
        cols={sent.cols}
        rows={sent.rows}
        onSeen={(cells) => set({ cells, typed: cells.some((c) => c !== " "), read: undefined, look: undefined })}
      />
      <Photograph key={`photo ${sheet.begun}`} of={of}>
        {({ cells, geometry, blank }) =>
          geometry === of.bench.modules[of.module]?.display.geometry && (
            <Button
              variant="contained"
              onClick={() => {
                const seen = cells.map((c) => c.typed);
                const typed = !blank && seen.some((c) => c !== " ");
                set({ cells: seen, typed, read: readOf(cells), look: typed ? undefined : { class: "blank" } });
              }}
            >
              It is what I see
            </Button>
          )
        }
      </Photograph>
      <div className={css.looks} role="group" aria-label="What looks like it">
        {found.looks.map((l) => {
          const name = looks[l.pattern ?? l.class] ?? l.class;
          const on = sheet.look?.class === l.class && sheet.look.pattern === l.pattern;
          return (
            <Bare
              key={name}
              aria-pressed={on}
              onClick={() =>
                set({
                  look: on
                    ? undefined
                    : {
                        class: l.class as NonNullable<Sheet["look"]>["class"],
                        pattern: l.pattern as NonNullable<Sheet["look"]>["pattern"],
                      },
                })
              }
            >
              <span className={css.mini} style={{ background: groundOf(l.glass, tintOf(tint)) }}>
                <Glass glass={l.glass} tint={tint} pitch={small} name={name} />
              </span>
              {name}
            </Bare>
          );
        })}
      </div>
      <div className={css.light} role="group" aria-label="Backlight" hidden={!vo}>
        <span>Backlight</span>
        {(
          [
            [true, "lit"],
            [false, "dark"],
            [undefined, "not looked at"],
          ] as const
        ).map(([value, title]) => (
          <Bare key={title} aria-pressed={sheet.light === value} onClick={() => set({ light: value })}>
            {title}
          </Bare>
        ))}
      </div>
      <Read sheet={sheet} vo={vo} bus={bus} onChange={set} />
      <Pointed found={found} sheet={sheet} tint={tint} pitch={pitch} onChange={(wrong) => set({ wrong })} />
      {sheet.results.length > 0 && (
        <ul className={css.results} aria-label="What tests showed">
          {sheet.results.map((r) => (
            <li key={r.test}>
              <span>
                <b>{r.title}</b>: {r.says}
              </span>
              <Quiet
                aria-label={`Take back: ${r.title}`}
                onClick={() => set({ results: sheet.results.filter((o) => o.test !== r.test) })}
              >
                Take back
              </Quiet>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

interface ReadProps {
  sheet: Sheet;
  vo: boolean;
  bus: boolean;
  onChange: (next: Partial<Sheet>) => void;
}

/** What was measured already, and what a scanner printed. */
function Read({ sheet, vo, bus, onChange }: ReadProps) {
  const fields = [
    { test: "supply", title: "VDD" },
    { test: "contrast", title: "VO" },
  ].filter((f) => f.test !== "contrast" || vo);
  return (
    <div className={css.read}>
      {fields.map((f) => {
        const text = sheet.volts[f.test] ?? "";
        return (
          <label key={f.test}>
            {f.title} measured
            <span>
              <TextBox
                inputMode="decimal"
                value={text}
                aria-invalid={text !== "" && voltsOf(text) === undefined}
                onChange={(e) => {
                  const others = Object.entries(sheet.volts).filter(([test]) => test !== f.test);
                  const mine = e.target.value === "" ? [] : [[f.test, e.target.value] as const];
                  onChange({ volts: Object.fromEntries([...others, ...mine]) });
                }}
              />{" "}
              V
            </span>
            {text !== "" && voltsOf(text) === undefined && <small role="alert">expected volts, such as 4.9</small>}
          </label>
        );
      })}
      {bus && (
        <label className={css.printed}>
          A scanner printed
          <TextBox
            placeholder="0x27, 0x68 or as it is"
            value={sheet.printed}
            onChange={(e) => onChange({ printed: e.target.value })}
          />
        </label>
      )}
    </div>
  );
}

interface PointedProps {
  found: FindResult;
  sheet: Sheet;
  tint: string | undefined;
  pitch: number;
  onChange: (wrong: number[] | undefined) => void;
}

/** The glass as it ought to be, to point at what is otherwise on the real one. */
function Pointed({ found, sheet, tint, pitch, onChange }: PointedProps) {
  const { sent } = found;
  const w = CELL_COLS * pitch;
  const h = rowPitch(sent) * pitch;
  const wrong = sheet.wrong ?? [];
  const toggle = (i: number) => {
    const next = wrong.includes(i) ? wrong.filter((o) => o !== i) : [...wrong, i].sort((a, b) => a - b);
    onChange(next.length > 0 ? next : undefined);
  };
  return (
    <div className={css.ought}>
      <h3>It ought to show; point at what is otherwise</h3>
      <div className={css.glass} style={{ padding: 2 * pitch, background: groundOf(sent, tintOf(tint)) }}>
        <div className={css.area}>
          <Glass glass={sent} tint={tint} pitch={pitch} name="It ought to" />
          {sheet.cells.map((_, i) => (
            <Bare
              key={i}
              className={css.cell}
              tabIndex={i === (wrong[0] ?? 0) ? 0 : -1}
              aria-pressed={wrong.includes(i)}
              aria-label={`Row ${Math.floor(i / sent.cols) + 1}, column ${(i % sent.cols) + 1} is otherwise`}
              style={{
                left: (i % sent.cols) * w - pitch / 2,
                top: Math.floor(i / sent.cols) * h - pitch / 2,
                width: w,
                height: h,
              }}
              onClick={() => toggle(i)}
              onKeyDown={(e) => {
                const step = { ArrowLeft: -1, ArrowRight: 1, ArrowUp: -sent.cols, ArrowDown: sent.cols }[e.key];
                if (step === undefined) return;
                e.preventDefault();
                const cells = e.currentTarget.parentElement?.querySelectorAll("button");
                cells?.[i + step]?.focus();
              }}
            />
          ))}
        </div>
      </div>
    </div>
  );
}
