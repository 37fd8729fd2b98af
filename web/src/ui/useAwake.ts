import { useEffect, useState } from "react";

/** Keeps the screen from falling asleep while it is looked at; false where the browser does not let a page do so. */
export function useAwake(): boolean {
  const [can, setCan] = useState(true);
  useEffect(() => {
    let lock: WakeLockSentinel | undefined;
    let over = false;
    const ask = async () => {
      if (document.visibilityState !== "visible") return;
      try {
        // Over plain HTTP the browser has none.
        const asked = await (navigator as { wakeLock?: WakeLock }).wakeLock?.request("screen");
        setCan(asked !== undefined);
        if (over) await asked?.release();
        else lock = asked;
      } catch {
        setCan(false); // as when the battery is low
      }
    };
    void ask();
    document.addEventListener("visibilitychange", ask);
    return () => {
      over = true;
      document.removeEventListener("visibilitychange", ask);
      void lock?.release();
    };
  }, []);
  return can;
}
