import { useRef, useState } from "react";
import { editGlyphs } from "../../api/glyphs";
import { useLatest } from "../../ui/useLatest";
import { useBench } from "../../work/BenchContext";
import { reason } from "../../work/reason";
import { libraryOf } from "../../work/setup";

type What = Parameters<typeof editGlyphs>[2];
type Done = Awaited<ReturnType<typeof editGlyphs>>;

/** When what was changed last has been drawn, so that the next change is made for the bench with it. */
const drawn = () => new Promise((then) => requestAnimationFrame(then));

/** Changes of glyphs that need the whole library or all slots: the program makes them, one after the other. */
export function useGlyphEdits() {
  const { bench, module, remedy } = useBench();
  const latest = useLatest({ bench, module, remedy });
  const [refused, setRefused] = useState<string>();
  const turn = useRef<Promise<unknown>>(Promise.resolve());
  /** Undefined where it was refused; refused says why. */
  const edit = (what: What): Promise<Done | undefined> => {
    const make = async () => {
      const { bench: b, module: m } = latest.current;
      try {
        const done = await editGlyphs(libraryOf(b, m), b.modules.indexOf(m), what);
        const why = done.patch.length > 0 ? latest.current.remedy(done) : undefined;
        setRefused(why);
        await drawn();
        return why ? undefined : done;
      } catch (e) {
        setRefused(reason(e));
        return undefined;
      }
    };
    const done = turn.current.then(make);
    turn.current = done;
    return done;
  };
  return { edit, refused };
}
