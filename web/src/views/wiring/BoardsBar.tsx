import { memo, useState } from "react";
import { client, type Wiring, type WiringResult } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { keep } from "../../ui/keep";
import { reason } from "../../work/reason";
import { wiringOf } from "../../work/setup";
import type { TableEdit } from "../../work/useTableEdit";
import { Check } from "../../ui/Check";
import { Bare } from "../../ui/Bare";
import { Quiet } from "../../ui/Quiet";
import { Zoom } from "./Drawing";
import css from "./BoardsBar.module.css";

interface Props {
  result: WiringResult;
  /** As it is stored, or would be. */
  wiring: Wiring | undefined;
  edit: TableEdit;
  zoom: number;
  onZoom: (zoom: number) => void;
}

/** The boards that lie there, planning afresh, and what is printed or saved. */
export const BoardsBar = memo(function BoardsBar({ result, wiring, edit, zoom, onZoom }: Props) {
  const [trouble, setTrouble] = useState<string>();
  const boards = wiring?.boards ?? [];
  const first = boards.find((b) => b.beyond === undefined);
  const add = (columns: number) =>
    edit.edit((w) => {
      const have = w.boards ?? [];
      let n = have.length + 1;
      while (have.some((b) => b.id === `board-${n}`)) n++;
      return { ...w, boards: [...have, { id: `board-${n}`, columns }] };
    });
  const takeAway = (id: string) =>
    edit.edit((w) => ({
      ...w,
      boards: (w.boards ?? [])
        .filter((b) => b.id !== id)
        .map((b) => (b.beyond === id ? { ...b, beyond: undefined } : b)),
    }));
  const set = (id: string, next: object) =>
    edit.edit((w) => ({ ...w, boards: (w.boards ?? []).map((b) => (b.id === id ? { ...b, ...next } : b)) }));
  const save = async (what: "wires" | "parts") => {
    const path = what === "wires" ? ("/api/wiring/wires.csv" as const) : ("/api/wiring/parts.csv" as const);
    try {
      const { data, error } = await client.POST(path, { body: wiringOf(edit.now()), parseAs: "blob" });
      if (error || !data) throw new Error("the list could not be made");
      keep(`${what}.csv`, data as Blob, (data as Blob).type);
      setTrouble(undefined);
    } catch (e) {
      setTrouble(reason(e));
    }
  };
  return (
    <div className={css.bar} role="toolbar" aria-label="Table">
      <Bare
        className={css.main}
        title="Lay all parts and wires again, as planned; undo brings back what lay there"
        onClick={() => void edit.planAfresh().then(setTrouble)}
      >
        Plan afresh
      </Bare>
      <details className={css.boards}>
        <summary>Boards, colours</summary>
        <div>
          {boards.map((b) => (
            <fieldset key={b.id}>
              <legend>
                {b.id}, {b.columns} columns
              </legend>
              <Check
                checked={b.splitRails ?? false}
                onChange={(e) => set(b.id, { splitRails: e.target.checked || undefined })}
              >
                rails split in the middle
              </Check>
              <Check
                checked={(b.joined ?? false) && b.beyond === undefined}
                disabled={b.beyond !== undefined}
                title={b.beyond === undefined ? undefined : "Its lower rails are off"}
                onChange={(e) => set(b.id, { joined: e.target.checked || undefined })}
              >
                rails of both sides joined inside
              </Check>
              {first && first.id !== b.id && (
                <Check
                  checked={b.beyond !== undefined}
                  disabled={b.beyond === undefined && boards.some((o) => o.beyond)}
                  onChange={(e) => set(b.id, { beyond: e.target.checked ? first.id : undefined })}
                >
                  above {b.beyond ?? first.id}, its lower rails off, for a wide host
                </Check>
              )}
              <Quiet onClick={() => takeAway(b.id)}>Take it away</Quiet>
            </fieldset>
          ))}
          <Quiet onClick={() => add(30)}>
            <Icon name="plus" size={15} /> Half-size
          </Quiet>
          <Quiet onClick={() => add(63)}>
            <Icon name="plus" size={15} /> Full-size
          </Quiet>
          <Check checked={wiring?.eachLine ?? false} onChange={(e) => edit.paintEach(e.target.checked)}>
            each data line in a colour of its own
          </Check>
        </div>
      </details>
      <Quiet title="Drawing, list, parts and checks on A4" onClick={() => window.print()}>
        Print
      </Quiet>
      <Quiet onClick={() => void save("wires")}>Wires (CSV)</Quiet>
      <Quiet onClick={() => void save("parts")}>Parts (CSV)</Quiet>
      <span className={css.count}>
        {result.laid ? "" : "proposed: "}
        {result.wires.length} wires
      </span>
      <Zoom zoom={zoom} onZoom={onZoom} />
      {trouble && <p role="alert">{trouble}</p>}
    </div>
  );
});
