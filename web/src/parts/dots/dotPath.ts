/** The lit dots of a pattern as a path on a grid of 5 × 8 units; bit 4 of a row is its leftmost dot. */
export function dotPath(rows: ArrayLike<number>): string {
  let d = "";
  for (let y = 0; y < rows.length; y++) {
    for (let x = 0; x < 5; x++) if (((rows[y] ?? 0) >> (4 - x)) & 1) d += `M${x} ${y}h.9v.9h-.9z`;
  }
  return d;
}
