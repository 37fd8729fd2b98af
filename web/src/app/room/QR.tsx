import css from "./Room.module.css";

/** Light cells that a QR code needs round it: four (ISO/IEC 18004). */
const QUIET = 4;

/** A QR code, dark on light in either theme, as scanners want it. */
export function QR({ rows, label }: { rows: string[]; label: string }) {
  const size = rows.length + 2 * QUIET;
  const dark = rows.flatMap((row, y) =>
    [...row].map((cell, x) => (cell === "1" ? `M${x + QUIET} ${y + QUIET}h1v1h-1z` : "")),
  );
  return (
    <svg className={css.qr} viewBox={`0 0 ${size} ${size}`} role="img" aria-label={label} shapeRendering="crispEdges">
      <rect width={size} height={size} fill="#fff" />
      <path d={dark.join("")} fill="#000" />
    </svg>
  );
}
