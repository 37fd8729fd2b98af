import { useState } from "react";
import { Link } from "react-router-dom";
import { pages } from "../../parts/handbook/pages";
import { Reader } from "../../parts/handbook/Reader";
import { Quiet } from "../../ui/Quiet";
import { tour } from "../../work/tour";
import css from "./Beside.module.css";

interface Props {
  /** The view beside which it is read. */
  view: string;
  close: () => void;
}

/** The handbook beside the work: at the page of the view, until another one is chosen. */
export default function Beside({ view, close }: Props) {
  const [read, setRead] = useState({ view, page: view });
  const [left, setLeft] = useState(false);
  const page = read.view === view ? read.page : view;
  const touring = tour.useValue();
  return (
    <aside
      className={css.beside}
      data-left={left || undefined}
      aria-label={`Handbook: ${pages.get(page)?.title ?? ""}`}
      onKeyDown={(e) => {
        if (e.key !== "Escape") return;
        e.stopPropagation();
        close();
      }}
    >
      <Reader
        page={page}
        go={(next) => setRead({ view, page: next })}
        acts={
          <>
            {touring <= 0 && (
              <Quiet
                size="small"
                onClick={() => {
                  close();
                  tour.set(touring < 0 ? -touring : 1);
                }}
              >
                {touring < 0 ? `Tour, from step ${-touring}` : "Tour"}
              </Quiet>
            )}
            <Quiet
              size="small"
              className={css.side}
              title="To the other side"
              aria-label="To the other side"
              onClick={() => setLeft(!left)}
            >
              {left ? "→" : "←"}
            </Quiet>
            <Quiet
              size="small"
              component={Link}
              to={`/handbook/${page}`}
              target="_blank"
              title="In a window of its own"
              aria-label="In a window of its own"
            >
              ↗
            </Quiet>
            <Quiet size="small" title="Close (Esc, F1)" aria-label="Close the handbook" onClick={close}>
              ×
            </Quiet>
          </>
        }
      />
    </aside>
  );
}
