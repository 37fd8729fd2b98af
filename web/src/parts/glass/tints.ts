/** How a glass looks: its ground, its dots, and the light behind it. */
export interface Tint {
  title: string;
  ground: string; // with the backlight on
  unlit: string; // with the backlight off
  dot: string;
  dotUnlit: string;
  glow: number; // px of bloom around a lit dot; light-emitting dots have it
}

export const tints = {
  green: {
    title: "Yellow-green",
    ground: "#b3c63f",
    unlit: "#77815a",
    dot: "#1f2a12",
    dotUnlit: "#20281a",
    glow: 0,
  },
  blue: {
    title: "Blue",
    ground: "#1f4fc4",
    unlit: "#1a2a52",
    dot: "#eef5ff",
    dotUnlit: "#32446f",
    glow: 1,
  },
  grey: { title: "Grey", ground: "#d3dad2", unlit: "#939a93", dot: "#22262b", dotUnlit: "#23272b", glow: 0 },
  amber: {
    title: "Amber",
    ground: "#f0a13a",
    unlit: "#8d6f45",
    dot: "#2b1706",
    dotUnlit: "#2a1d10",
    glow: 0,
  },
  teal: {
    title: "Vacuum fluorescent",
    ground: "#07110f",
    unlit: "#07110f",
    dot: "#6cf5d4",
    dotUnlit: "#6cf5d4",
    glow: 4,
  },
} satisfies Record<string, Tint>;

export const tintOf = (name: string | undefined): Tint => tints[(name ?? "green") as keyof typeof tints] ?? tints.green;
