/** Line icons drawn for this application on a 24-unit grid. */
const paths = {
  undo: "M9 6 4 11l5 5M4 11h10a6 6 0 0 1 0 12h-2",
  redo: "m15 6 5 5-5 5M20 11H10a6 6 0 0 0 0 12h2",
  left: "m14 5-7 7 7 7",
  right: "m10 5 7 7-7 7",
  fold: "m5 15 7-7 7 7",
  unfold: "m5 9 7 7 7-7",
  plus: "M12 5v14M5 12h14",
  up: "M12 20V9m-5 5 5-5 5 5M4 4h16",
  bin: "M5 7h14M9 7V4h6v3M7 7l1 13h8l1-13",
  table: "M3 9h18M5 9v11M19 9v11M6 9V4h6v5M15 9V6h4v3",
  copy: "M9 9h11v11H9zM5 15H4V4h11v1",
  down: "M12 4v11m-5-5 5 5 5-5M4 20h16",
  grid: "M4 5h16v14H4zM4 12h16M9.3 5v14M14.6 5v14",
  dots: "M5 4h3v3H5zM11 4h3v3h-3zM5 10h3v3H5zM11 10h3v3h-3zM17 10h3v3h-3zM5 16h3v3H5zM17 16h3v3h-3z",
  mirror: "M12 3v18M9 7v10l-6-5zM15 7v10l6-5z",
  flip: "M3 12h18M7 9h10l-5-6zM7 15h10l-5 6z",
  turn: "M19 12a7 7 0 1 1-3-5.7M16 2v5h5",
  invert: "M4 4h16v16H4zM4 4l16 16v-16z",
  half: "M12 3v18M12 5H4v14h8M15 5h1M18 5h2v2M20 10v1M20 14v1M20 18v1h-2M15 19h1",
  paste: "M8 5H5v16h14V5h-3M8 3h8v4H8z",
  close: "M5 5l14 14M19 5 5 19",
  play: "M7 4v16l13-8z",
  pause: "M8 4v16M16 4v16",
  next: "M6 4v16l10-8zM19 4v16",
  back: "M18 4v16L8 12zM5 4v16",
  board: "M3 6h18v12H3zM6 9h12v6H6zM7 21v-3M11 21v-3M15 21v-3",
  bus: "M2 7h20M2 11h20M6 7v10M9 11v6M5 17h5v4H5zM16 7v10M19 11v6M15 17h5v4h-5z",
  wires: "M4 3v5c0 6 16 2 16 8v5M20 3v5c0 3-3 4-6 5M10 14c-3 1-6 2-6 4v3",
  link: "M3 12h6m6 0h6M9 8h6v8H9z",
  film: "M3 6h8v6H3zM13 12h8v6h-8zM7 12v3a2 2 0 0 0 2 2h4M17 12V9a2 2 0 0 0-2-2h-4",
  code: "M8 5 3 12l5 7M16 5l5 7-5 7M13.5 4l-3 16",
  wave: "M2 17h4V7h6v10h6V7h4",
  probe: "M2 8h4V4h5v4h3M2 19h7v-4h4v4h3M18 3v9l3-3M18 12v9",
  seek: "M10 4a6 6 0 1 0 0 12 6 6 0 0 0 0-12zM14.5 14.5 21 21M10 7v3.4M10 13v.1",
  earlier: "M4 5v5h5M4.6 10A8 8 0 1 1 4 14M12 8v5l3.5 2",
  bulb: "M9 18h6M10 21h4M12 3a6 6 0 0 0-3.5 10.9V15h7v-1.1A6 6 0 0 0 12 3z",
  paper: "M6 3h9l4 4v14H6zM15 3v4h4M9 11h7M9 15h7",
  more: "M5 12h.1M12 12h.1M19 12h.1M4 6h16M4 18h16",
  book: "M5 4h12a2 2 0 0 1 2 2v14H7a2 2 0 0 1-2-2zM5 17a2 2 0 0 1 2-2h12M9 8h6M9 11h4",
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
