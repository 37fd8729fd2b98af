import css from "./Pictures.module.css";

const inks: Record<string, [ground: string, dot: string]> = {
  green: ["#a9c43c", "#25330b"],
  blue: ["#2450c8", "#eef3ff"],
  teal: ["#0d1a18", "#5fe0c0"],
};

/** A module's front, to scale with others: board, bezel, and every cell. */
export function ModulePicture({ size, tint }: { size: string; tint: string }) {
  const [cols = 16, rows = 2] = size.split("x").map(Number);
  const [ground, dot] = inks[tint] ?? (inks.green as [string, string]);
  const cell = 3;
  const w = cols * cell;
  const h = rows * 5;
  return (
    <svg className={css.picture} viewBox={`0 0 ${Math.max(w + 16, 64)} 40`} aria-hidden="true">
      <g transform={`translate(${(Math.max(w + 16, 64) - w - 16) / 2} ${(40 - h - 14) / 2})`}>
        <rect width={w + 16} height={h + 14} rx="2" fill="#1f5a3c" />
        <rect x="5" y="5" width={w + 6} height={h + 6} rx="1" fill="#15181a" />
        <rect x="8" y="8" width={w} height={h} fill={ground} />
        {Array.from({ length: rows * cols }, (_, i) => (
          <rect
            key={i}
            x={8 + (i % cols) * cell + 0.5}
            y={8 + Math.floor(i / cols) * 5 + 0.6}
            width="2"
            height="3.8"
            fill={dot}
            opacity={(i * 7) % 5 > 1 ? 0.75 : 0.16}
          />
        ))}
        {Array.from({ length: Math.min(16, cols * 2) }, (_, i) => (
          <circle key={i} cx={5 + i * ((w + 6) / 16)} cy="2.4" r="0.9" fill="#d9b45a" />
        ))}
      </g>
    </svg>
  );
}

const outlines: Record<string, { w: number; h: number; can?: boolean; round?: boolean }> = {
  ATmega328P: { w: 54, h: 38 },
  ATmega2560: { w: 78, h: 40 },
  ESP32: { w: 44, h: 24, can: true },
  ESP8266: { w: 38, h: 26, can: true },
  "ATmega328P small": { w: 44, h: 19 },
  ATmega32U4: { w: 54, h: 38 },
  ATtiny85: { w: 26, h: 20 },
  "ESP32 small": { w: 50, h: 27, can: true },
  RP2040: { w: 48, h: 20, round: true },
  RP2350: { w: 48, h: 20, round: true },
  STM32F103: { w: 50, h: 22 },
  SAMD21: { w: 54, h: 38 },
};

/** A host board from above: its outline, socket, pins and largest chip. */
export function BoardPicture({ part }: { part: string }) {
  const o = outlines[part];
  if (!o) {
    return (
      <svg className={css.picture} viewBox="0 0 86 46" aria-hidden="true">
        <rect x="18" y="8" width="50" height="30" rx="3" className={css.unknown} />
        <path className={css.question} d="M38 20a5 5 0 1 1 6 5v4m0 4v.5" />
      </svg>
    );
  }
  const x = (86 - o.w) / 2;
  const y = (46 - o.h) / 2;
  const pins = Math.floor((o.w - 10) / 3.4);
  return (
    <svg className={css.picture} viewBox="0 0 86 46" aria-hidden="true">
      <rect x={x} y={y} width={o.w} height={o.h} rx="2.5" fill="#23505c" stroke="#4c7d89" />
      <rect x={x - 3} y={23 - 5} width="9" height="10" rx="1" fill="#b9c3c6" />
      {Array.from({ length: pins }, (_, i) => (
        <g key={i} fill={o.round ? "#d9b45a" : "#11181a"}>
          <rect x={x + 8 + i * 3.4} y={y + 1.5} width="2.2" height="2.2" rx={o.round ? 1.1 : 0.2} />
          <rect x={x + 8 + i * 3.4} y={y + o.h - 3.7} width="2.2" height="2.2" rx={o.round ? 1.1 : 0.2} />
        </g>
      ))}
      {o.can ? (
        <>
          <rect x={x + o.w - 20} y={y + 5} width="12" height={o.h - 10} fill="#c5ccd0" />
          <path d={`M${x + o.w - 6} ${y + 7}h3v3h-3v3h3v3h-3`} fill="none" stroke="#d9b45a" />
        </>
      ) : o.round ? (
        <rect x="40" y="19.5" width="7" height="7" fill="#14181a" />
      ) : (
        <rect
          x={Math.min(36, x + o.w - 18)}
          y={y + o.h - 15}
          width={Math.min(26, o.w - 20)}
          height="7"
          fill="#14181a"
        />
      )}
    </svg>
  );
}

/** How many wires run from a host to a module, and what lies between. */
export function LinkPicture({ kind }: { kind: string }) {
  const wires = { backpack: 2, shift: 3, parallel4: 6, parallel8: 10 }[kind] ?? 0;
  const top = 23 - ((wires - 1) * 3) / 2;
  return (
    <svg className={css.picture} viewBox="0 0 86 46" aria-hidden="true">
      <rect x="4" y="8" width="18" height="30" rx="2" fill="#23505c" stroke="#4c7d89" />
      <rect x="62" y="6" width="20" height="34" rx="2" fill="#1f5a3c" />
      <rect x="65" y="12" width="14" height="22" fill="#a9c43c" />
      {kind === "" && <path className={css.question} d="M37 19a6 6 0 1 1 7 6v5m0 4v.5" />}
      {Array.from({ length: wires }, (_, i) => (
        <path key={i} className={css.wire} data-second={i % 2 || undefined} d={`M22 ${top + i * 3}H62`} />
      ))}
      {kind === "backpack" && <rect x="52" y="12" width="12" height="22" fill="#14181a" stroke="#d9b45a" />}
      {kind === "shift" && <rect x="36" y="13" width="10" height="20" fill="#14181a" stroke="#8d9a9e" />}
    </svg>
  );
}
