import { useEffect, useState, type RefObject } from "react";

/** How wide an element is, in CSS pixels. */
export function useWidth(ref: RefObject<Element | null>): number {
  const [width, setWidth] = useState(640);
  useEffect(() => {
    const element = ref.current;
    if (!element) return;
    const observer = new ResizeObserver(([entry]) => entry && setWidth(entry.contentRect.width));
    observer.observe(element);
    return () => observer.disconnect();
  }, [ref]);
  return width;
}
