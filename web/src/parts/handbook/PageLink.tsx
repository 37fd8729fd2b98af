import type { ReactNode } from "react";

interface Props {
  /** Name of the page. */
  to: string;
  go: (page: string) => void;
  children: ReactNode;
}

/** Leads to another page of the handbook: where this one is read, or with a key held in a window of its own. */
export function PageLink({ to, go, children }: Props) {
  return (
    <a
      href={`/handbook/${to}`}
      onClick={(e) => {
        if (e.ctrlKey || e.metaKey || e.shiftKey) return; // a page of its own
        e.preventDefault();
        go(to);
      }}
    >
      {children}
    </a>
  );
}
