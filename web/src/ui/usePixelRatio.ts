import { useEffect, useState } from "react";

/** How many pixels of the screen a CSS pixel has, as it changes with zoom and from one screen to another. */
export function usePixelRatio(): number {
  const [ratio, setRatio] = useState(() => window.devicePixelRatio || 1);
  useEffect(() => {
    const query = window.matchMedia(`(resolution: ${ratio}dppx)`);
    const changed = () => setRatio(window.devicePixelRatio || 1);
    query.addEventListener("change", changed);
    window.addEventListener("resize", changed);
    return () => {
      query.removeEventListener("change", changed);
      window.removeEventListener("resize", changed);
    };
  }, [ratio]);
  return ratio;
}
