import { useQuery } from "@tanstack/react-query";
import { memo, useCallback, useMemo, useState } from "react";
import type { ROMEntry } from "../../api/client";
import { romQuery } from "../../api/queries";
import { useBench } from "../../work/BenchContext";
import { bytes } from "../../api/bytes";
import { reason } from "../../work/reason";
import { charOf } from "../../work/typing/rows";
import { useGlass } from "../../work/GlassContext";
import { binary, hex } from "../../ui/numbers";
import { dotPath } from "../../parts/dots/dotPath";
import { Bare } from "../../ui/Bare";
import { Quiet } from "../../ui/Quiet";
import { TextBox } from "../../ui/TextBox";
import { amongCodes } from "./amongCodes";
import css from "./RomChart.module.css";

interface Props {
  /** Learns the ROM from photographs. */
  onLearn: () => void;
}

/** The ROM to look things up in, and to pick from: a click types the code at the cursor. */
export function RomChart({ onLearn }: Props) {
  const { module } = useBench();
  const { typistRef } = useGlass();
  const { data: rom, error } = useQuery(romQuery(module.display));
  const [search, setSearch] = useState("");
  const [shown, setShown] = useState<ROMEntry | null>(null);
  const found = useMemo(() => matches(rom?.cells ?? [], search), [rom, search]);
  const pick = useCallback((entry: ROMEntry) => typistRef.current(charOf(entry.code)), [typistRef]); // 256 buttons are drawn anew only where the ROM is another
  if (error) return <p role="alert">{reason(error)}</p>;
  if (!rom) return <p>Opening the ROM…</p>;
  return (
    <section aria-label="Character ROM" className={css.rom}>
      <header>
        <h2>Character ROM {rom.name}</h2>
        <TextBox
          type="search"
          aria-label="Search the ROM"
          placeholder="ü, arrow, 0xDF"
          value={search}
          onChange={(e) => setSearch(e.target.value)}
        />
      </header>
      <p className={`lead ${css.note}`} aria-live="polite">
        {shown
          ? `${hex(shown.code)} = ${shown.code} = ${binary(shown.code)}: ${shown.char ?? "no character"}${shown.name ? `, ${shown.name.toLowerCase()}` : ""}`
          : search
            ? `${found.size} found`
            : "Point at a code for its numbers; click it to type it at the cursor."}
      </p>
      <Grid cells={rom.cells} found={search ? found : null} onShow={setShown} onPick={pick} />
      <p className={css.learn}>
        Does the real module show other characters? <Quiet onClick={onLearn}>Learn its ROM from photographs</Quiet>
      </p>
    </section>
  );
}

/** Codes whose character, name or number has what is searched for. */
function matches(cells: ROMEntry[], search: string): Set<number> {
  const s = search.trim().toLowerCase();
  if (!s) return new Set();
  return new Set(
    cells
      .filter(
        (c) =>
          c.known &&
          (c.char?.toLowerCase() === s ||
            (s.length > 1 && (c.name ?? "").toLowerCase().includes(s)) ||
            hex(c.code).toLowerCase() === s ||
            String(c.code) === s),
      )
      .map((c) => c.code),
  );
}

interface GridProps {
  cells: ROMEntry[];
  found: Set<number> | null;
  onShow: (e: ROMEntry | null) => void;
  onPick: (e: ROMEntry) => void;
}

const Grid = memo(function Grid({ cells, found, onShow, onPick }: GridProps) {
  const shown = withoutBareRows(cells);
  const [active, setActive] = useState(shown.find((c) => c.known)?.code); // the one that Tab leads to
  return (
    <div className={css.grid} onPointerLeave={() => onShow(null)} onKeyDown={amongCodes}>
      {shown.map((c) => (
        <Bare
          key={c.code}
          tabIndex={c.code === active ? 0 : -1}
          disabled={!c.known}
          data-found={found?.has(c.code) || undefined}
          data-dim={(found && !found.has(c.code)) || undefined}
          aria-label={`Code ${hex(c.code)}${c.name ? `, ${c.name.toLowerCase()}` : ""}`}
          onPointerEnter={() => onShow(c)}
          onFocus={() => {
            onShow(c);
            setActive(c.code);
          }}
          onClick={() => onPick(c)}
        >
          <svg viewBox="0 0 5 8" aria-hidden="true">
            <path d={dotPath(bytes(c.dots))} />
          </svg>
        </Bare>
      ))}
    </div>
  );
});

/** Leaves out rows of sixteen codes of which the ROM has none. */
const withoutBareRows = (cells: ROMEntry[]) =>
  cells.filter((c) => cells.slice(c.code & 0xf0, (c.code & 0xf0) + 16).some((other) => other.known));
