/** Line icons drawn for this application on a 24-unit grid. */
const paths = {
  undo: "M9 6 4 11l5 5M4 11h10a6 6 0 0 1 0 12h-2",
  redo: "m15 6 5 5-5 5M20 11H10a6 6 0 0 0 0 12h2",
  moon: "M20 14a8 8 0 1 1-9-10 7 7 0 0 0 9 10Z",
  sun: "M12 8a4 4 0 1 0 0 8 4 4 0 0 0 0-8ZM12 2v3M12 19v3M2 12h3M19 12h3M5 5l2 2M17 17l2 2M5 19l2-2M17 7l2-2",
  copy: "M9 9h11v11H9zM5 15H4V4h11v1",
  down: "M12 4v11m-5-5 5 5 5-5M4 20h16",
  grid: "M4 5h16v14H4zM4 12h16M9.3 5v14M14.6 5v14",
  close: "M5 5l14 14M19 5 5 19",
  play: "M7 4v16l13-8z",
  pause: "M8 4v16M16 4v16",
  next: "M6 4v16l10-8zM19 4v16",
  back: "M18 4v16L8 12zM5 4v16",
  board: "M3 6h18v12H3zM6 9h12v6H6zM7 21v-3M11 21v-3M15 21v-3",
  wave: "M2 17h4V7h6v10h6V7h4",
} as const;

export type IconName = keyof typeof paths;

export function Icon({ name, size = 20 }: { name: IconName; size?: number }) {
  return (
    <svg width={size} height={size} viewBox="0 0 24 24" aria-hidden="true" focusable="false">
      <path
        d={paths[name]}
        fill="none"
        stroke="currentColor"
        strokeWidth="1.9"
        strokeLinecap="round"
        strokeLinejoin="round"
      />
    </svg>
  );
}
