import { useRef, useState } from "react";
import type { Display, Glass } from "../../api/client";
import type { Faulty } from "../../api/faults";
import { gridBetween, readPhotograph, type Looking, type PhotoPoint, type Photograph } from "../../api/photos";
import { PHOTOGRAPH, pictureOf, type Picture } from "../../ui/pictures";
import { reason } from "../../work/reason";

/** A photograph as it is shown, and sent. */
export interface Shot {
  url: string;
  picture: Picture;
  width: number;
  height: number;
}

/** A photograph of a module's glass: taken in, read, and read again once its corners have been moved. */
export function usePhotograph(of: Faulty, display: Display, among?: Glass[]) {
  const newest = useRef(0);
  const [shot, setShot] = useState<Shot>();
  const [read, setRead] = useState<Photograph>();
  const [corners, setCorners] = useState<PhotoPoint[]>();
  const [grid, setGrid] = useState<PhotoPoint[][]>();
  const [refused, setRefused] = useState<string>();
  const [busy, setBusy] = useState(false);
  const asking = useRef<{ wish?: PhotoPoint[] }>(undefined);

  const look = async (data: string, how: Looking) => {
    const turn = ++newest.current;
    setBusy(true);
    try {
      const got = await readPhotograph(of, data, { ...how, among });
      if (turn !== newest.current) return;
      setRead(got);
      setCorners(got.corners);
      setGrid(got.cells.map((c) => c.outline));
      setRefused(undefined);
    } catch (e) {
      if (turn !== newest.current) return;
      setRead(undefined);
      setRefused(reason(e));
    }
    setBusy(false);
  };
  const take = async (file: File | null | undefined) => {
    if (!file) return;
    try {
      const picture = await pictureOf(file, PHOTOGRAPH);
      const url = `data:${picture.type};base64,${picture.data}`;
      const { width, height } = await sizeOf(url);
      setShot({ url, picture, width, height });
      setRead(undefined);
      setGrid(undefined);
      setCorners(middle(width, height)); // to be moved where no glass is found
      await look(picture.data, {});
    } catch (e) {
      setRefused(e instanceof Error ? e.message : String(e));
    }
  };
  /** Moves corners, and lets the grid follow: of many wishes the newest is asked for once the one before is answered. */
  const move = (next: PhotoPoint[]) => {
    newest.current++; // what was read before is of other corners
    setCorners(next);
    if (asking.current) {
      asking.current.wish = next;
      return;
    }
    const follow = async (at: PhotoPoint[]): Promise<void> => {
      asking.current = {};
      const cells = await gridBetween(display, at, read?.gapX ?? 1, read?.gapY ?? 1).catch(() => undefined);
      const wish = (asking.current as { wish?: PhotoPoint[] }).wish;
      asking.current = undefined;
      setGrid(cells);
      if (wish) await follow(wish);
    };
    void follow(next);
  };
  const leave = () => {
    newest.current++;
    setShot(undefined);
    setRead(undefined);
    setRefused(undefined);
    setBusy(false);
  };
  return {
    shot,
    read,
    corners,
    grid,
    refused,
    busy,
    take,
    move,
    leave,
    /** Reads it anew. */
    again: (how: Looking) => (shot ? look(shot.picture.data, how) : Promise.resolve()),
  };
}

const middle = (width: number, height: number): PhotoPoint[] => {
  const [left, right, top, low] = [0.15 * width, 0.85 * width, 0.35 * height, 0.65 * height];
  return [
    { x: left, y: top },
    { x: right, y: top },
    { x: right, y: low },
    { x: left, y: low },
  ];
};

/** How large a picture is, turned as the camera says. */
async function sizeOf(url: string): Promise<{ width: number; height: number }> {
  const image = new Image();
  image.src = url;
  await image.decode().catch(() => {
    throw new Error("this is no photograph that can be read; expected a JPEG or PNG file");
  });
  return { width: image.naturalWidth, height: image.naturalHeight };
}
