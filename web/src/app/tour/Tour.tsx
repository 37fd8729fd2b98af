import Button from "@mui/material/Button";
import { useEffect, useLayoutEffect, useRef, useState } from "react";
import { useNavigate } from "react-router-dom";
import { Quiet } from "../../ui/Quiet";
import { useBench } from "../../work/BenchContext";
import { STEPS, tour } from "../../work/tour";
import css from "./Tour.module.css";

interface Step {
  view: string;
  /** Selects what is meant on the page. */
  mark: string;
  title: string;
  says: string;
}

/** The way of the work, one view a step. */
const steps: Step[] = [
  {
    view: "bench",
    mark: '[aria-label="The table"]',
    title: "What lies on the table",
    says: "The host, its modules, and all that shares the bus. Choose a thing to see its settings; findings stand beside what they are about.",
  },
  {
    view: "wiring",
    mark: '[aria-label="Order of the work"]:not(nav)',
    title: "Wire by the list",
    says: "Every wire by its holes, in the order in which hands work. Tick one: it is marked on the board, and on a telephone that was let in.",
  },
  {
    view: "screens",
    mark: 'canvas[role="img"]',
    title: "Type on the glass",
    says: "Click the glass and type. What you see was composed, sent as bytes, and played into a simulated module; nothing is painted from your text.",
  },
  {
    view: "glyphs",
    mark: '[aria-label="Desk"]',
    title: "Draw what the ROM lacks",
    says: "Click dots, or move with the arrow keys and press Space. M mirrors the half that you drew.",
  },
  {
    view: "scenes",
    mark: '[role="toolbar"][aria-label="Show"]',
    title: "Make it live",
    says: "Press play. Scenes follow times, buttons and readings, and the wire is never asked for more than it can carry.",
  },
  {
    view: "code",
    mark: '[aria-label="Files"]',
    title: "Hand it over",
    says: "The program for your host, as C, a sketch or MicroPython. It reads its inputs itself; this page can build it and upload it.",
  },
  {
    view: "faults",
    mark: '[aria-label="What you see"]',
    title: "When the real glass shows something else",
    says: "Say what you see. Ten thousand faults were played into this very module; you are asked what tells most, and led to the wire.",
  },
];

/** Room between what is meant and its ring, in pixels. */
const ROOM = 4;

/** The tour: a card that says what a view is for, and a ring round what is meant. The page works on beneath it. */
export default function Tour({ view, at }: { view: string; at: number }) {
  const { id, module } = useBench();
  const navigate = useNavigate();
  const card = useRef<HTMLElement>(null);
  const step = steps[at - 1];
  const place = usePlace(step?.view === view ? step.mark : "");
  const go = (to: number) => {
    tour.set(to);
    const next = steps[to - 1];
    if (next) void navigate(`/benches/${id}/${module.id}/${next.view}`);
  };
  useEffect(() => {
    card.current?.focus();
  }, [at]);
  if (!step) return null;
  return (
    <>
      {place && <div className={css.ring} style={place} />}
      <section
        ref={card}
        tabIndex={-1}
        className={css.card}
        data-left={(place && place.left + place.width / 2 > window.innerWidth / 2) || undefined}
        aria-label={`Tour, step ${at} of ${STEPS}`}
        onKeyDown={(e) => {
          if (e.key !== "Escape") return;
          e.stopPropagation();
          tour.set(-at);
        }}
      >
        <p className={css.count}>
          Step {at} of {STEPS}
        </p>
        <h2>{step.title}</h2>
        <p>{step.says}</p>
        <div className={css.acts}>
          {step.view !== view ? (
            <Button variant="contained" onClick={() => go(at)}>
              Back to the tour
            </Button>
          ) : at < STEPS ? (
            <Button variant="contained" onClick={() => go(at + 1)}>
              Next
            </Button>
          ) : (
            <Button variant="contained" onClick={() => tour.set(0)}>
              End the tour
            </Button>
          )}
          <Quiet disabled={at === 1} onClick={() => go(at - 1)}>
            Before
          </Quiet>
          <Quiet title="It can be taken up again in the handbook (Esc)" onClick={() => tour.set(-at)}>
            Leave
          </Quiet>
        </div>
      </section>
    </>
  );
}

interface Place {
  left: number;
  top: number;
  width: number;
  height: number;
}

/** Where what is meant stands in the window, as it moves; undefined while it is not there. */
function usePlace(mark: string): Place | undefined {
  const [place, setPlace] = useState<Place>();
  useLayoutEffect(() => {
    let frame = 0;
    const look = () => {
      const box = mark ? document.querySelector(mark)?.getBoundingClientRect() : undefined;
      const next = box && {
        left: box.left - ROOM,
        top: box.top - ROOM,
        width: box.width + 2 * ROOM,
        height: Math.min(box.height, window.innerHeight - box.top) + 2 * ROOM,
      };
      setPlace((was) => (JSON.stringify(was) === JSON.stringify(next) ? was : next));
      frame = requestAnimationFrame(look);
    };
    look();
    return () => cancelAnimationFrame(frame);
  }, [mark]);
  return place;
}
