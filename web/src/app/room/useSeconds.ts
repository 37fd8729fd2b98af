import { useEffect, useState } from "react";

/** Whole seconds until a moment, down to 0. */
export function useSeconds(until: string): number {
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const timer = window.setInterval(() => setNow(Date.now()), 500);
    return () => window.clearInterval(timer);
  }, []);
  return Math.max(0, Math.ceil((Date.parse(until) - now) / 1000));
}
