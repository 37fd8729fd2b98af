import { useState, type DragEvent } from "react";

/** Whether files are held over a place, and what makes it take them when they are dropped there. */
export function useDrop(take: (files: FileList) => void) {
  const [over, setOver] = useState(false);
  const drops = {
    onDragOver: (e: DragEvent) => {
      e.preventDefault();
      setOver(true);
    },
    onDragLeave: () => setOver(false),
    onDrop: (e: DragEvent) => {
      e.preventDefault();
      setOver(false);
      take(e.dataTransfer.files);
    },
  };
  return { over, drops };
}
