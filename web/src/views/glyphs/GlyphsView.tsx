import { useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useState } from "react";
import { romQuery } from "../../api/queries";
import { Tabs } from "../../ui/Tabs";
import { useBench } from "../../work/BenchContext";
import { sheetOf, typed, type Target } from "../../work/glyphs";
import { useGlass } from "../../work/GlassContext";
import { useRun } from "../../work/useRun";
import { BanksPanel } from "./BanksPanel";
import { Desk } from "./Desk";
import { LibraryPanel } from "./LibraryPanel";
import { MakePanel } from "./MakePanel";
import { PicturePanel } from "./PicturePanel";
import { SlotBar } from "./SlotBar";
import css from "./GlyphsView.module.css";

const tabs = [
  { id: "library", title: "Library" },
  { id: "picture", title: "Picture" },
  { id: "make", title: "Make" },
  { id: "banks", title: "Banks" },
] as const;

type Tab = (typeof tabs)[number]["id"];

/** The glyph desk: dots drawn, cut from pictures, made by rule; the library, and what the slots hold when. */
export default function GlyphsView() {
  const { bench, module } = useBench();
  const { data: run } = useRun();
  const { data: rom } = useQuery(romQuery(module.display));
  const { typistRef, pickRef } = useGlass();
  const [chosen, setChosen] = useState<{ of: string; target: Target; quiet?: boolean }>();
  const [tab, setTab] = useState<Tab>("library");
  const codes = useMemo(() => new Map((rom?.slots ?? []).map((s) => [s.slot, s.code])), [rom]);

  const first = module.glyphs?.[0];
  const drawing = bench.glyphs?.find((d) => d.key && !d.part);
  const usual: Target = first
    ? { kind: "slot", slot: first.slot }
    : drawing?.key
      ? { kind: "drawing", key: drawing.key }
      : { kind: "slot", slot: 0 };
  // A slot belongs to its module; what is gone from the library is not on the desk any more.
  const mine = chosen && (chosen.target.kind !== "slot" || chosen.of === module.id) ? chosen.target : usual;
  const sheet = sheetOf(bench, module, mine);
  const target = sheet ? mine : usual;
  const choose = useCallback((t: Target, quiet = false) => setChosen({ of: module.id, target: t, quiet }), [module.id]);

  // A click on a cell of the glass that shows a glyph brings it to the desk; keys still go to the glass.
  useEffect(() => {
    pickRef.current = (cell) => {
      const at = run?.cells[cell];
      const part = bench.glyphs?.find((d) => at?.key && d.key === at.key)?.part;
      if (part) choose({ kind: "picture", name: part.picture }, true);
      else if (at?.key) choose({ kind: "drawing", key: at.key }, true);
      else if (at?.slot !== undefined) choose({ kind: "slot", slot: at.slot }, true);
    };
    return () => {
      pickRef.current = () => undefined;
    };
  }, [pickRef, run, bench.glyphs, choose]);

  const put = useCallback((t: Target) => typistRef.current(typed(bench, t, codes), true), [typistRef, bench, codes]);
  return (
    <div className={css.view}>
      <div className={css.work}>
        <SlotBar target={target} onChoose={choose} />
        <Desk
          key={JSON.stringify([module.id, target])}
          target={target}
          onChoose={choose}
          onPut={() => put(target)}
          codes={codes}
          focus={!chosen?.quiet}
        />
      </div>
      <aside className={css.side}>
        <Tabs label="Beside the desk" tabs={tabs} value={tab} onChange={setTab} />
        {tab === "library" && <LibraryPanel target={target} onChoose={choose} onPut={put} />}
        {tab === "picture" && <PicturePanel target={target} onChoose={choose} />}
        {tab === "make" && <MakePanel onChoose={choose} />}
        {tab === "banks" && <BanksPanel onChoose={choose} />}
      </aside>
    </div>
  );
}
