import { useEffect, useState, type ReactNode } from "react";
import css from "./Copy.module.css";
import { Bare } from "./Bare";

interface Props {
  /** The text, or how to get it. */
  text: string | (() => Promise<string>);
  /** What it is, for the tooltip, which screen readers read behind the text itself. */
  what: string;
  children: ReactNode;
}

/** Something that is copied with a click. */
export function Copy({ text, what, children }: Props) {
  const [state, setState] = useState<"idle" | "done" | "failed">("idle");
  const [rightwards, setRightwards] = useState(true);

  useEffect(() => {
    if (state === "idle") return;
    const timer = window.setTimeout(() => setState("idle"), 1600);
    return () => window.clearTimeout(timer);
  }, [state]);

  const copy = async (button: HTMLElement) => {
    setRightwards(button.getBoundingClientRect().left < window.innerWidth / 2); // what is said stays in the window
    try {
      await navigator.clipboard.writeText(typeof text === "string" ? text : await text());
      setState("done");
    } catch {
      setState("failed");
    }
  };
  const said = { idle: `Copy ${what}`, done: "Copied", failed: "The browser did not allow copying" }[state];
  return (
    <Bare
      className={css.copy}
      data-state={state}
      data-said={state === "idle" ? undefined : said}
      title={said}
      data-rightwards={rightwards || undefined}
      onClick={(e) => void copy(e.currentTarget)}
    >
      {children}
      {state !== "idle" && (
        <span className="unseen" role="status">
          {said}
        </span>
      )}
    </Bare>
  );
}
