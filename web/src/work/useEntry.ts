import { useState } from "react";
import type { Entry } from "../api/faults";
import { pictureOf, type Picture } from "../ui/pictures";
import { reason } from "./reason";
import { useNote } from "./useLog";

/** What pictures are made smaller to before they are kept. */
const KEPT = { side: 1600, most: 1 << 20 };

/** Pictures that an entry has at most. */
export const MOST_PICTURES = 4;

/** An entry of the log that is written by hand, with its pictures; what was typed stays until it is written. */
export function useEntry() {
  const note = useNote();
  const [text, setText] = useState("");
  const [pictures, setPictures] = useState<Picture[]>([]);
  const [refused, setRefused] = useState<string>();
  /** Writes it; returns whether that could be done. */
  const write = async (kind: Entry["kind"]): Promise<boolean> => {
    try {
      await note({ kind, text, pictures: pictures.length > 0 ? pictures : undefined });
      setText("");
      setPictures([]);
      setRefused(undefined);
      return true;
    } catch (e) {
      setRefused(reason(e));
      return false;
    }
  };
  const take = async (files: File[]) => {
    for (const f of files) {
      try {
        const p = await pictureOf(f, KEPT);
        setPictures((list) => (list.length < MOST_PICTURES ? [...list, p] : list));
        setRefused(undefined);
      } catch (e) {
        setRefused(reason(e));
      }
    }
  };
  return {
    text,
    setText,
    pictures,
    setPictures,
    refused,
    write,
    take,
    empty: text.trim() === "" && pictures.length === 0,
  };
}
