const rows = [0x04, 0x0e, 0x0e, 0x0e, 0x1f, 0x00, 0x04];

/** The product's mark: a bell as a glyph of 5×7 dots. */
export function Bell() {
  return (
    <svg width="22" height="30" viewBox="0 0 20 28" aria-hidden="true" focusable="false">
      {rows.flatMap((bits, y) =>
        [0, 1, 2, 3, 4].map((x) => (
          <circle
            key={`${x}-${y}`}
            cx={2 + x * 4}
            cy={2 + y * 4}
            r="1.65"
            fill="var(--brass)"
            opacity={(bits >> (4 - x)) & 1 ? 1 : 0.16}
          />
        )),
      )}
    </svg>
  );
}
