import Button from "@mui/material/Button";
import { useRef, useState, type ClipboardEvent, type KeyboardEvent, type PointerEvent } from "react";
import { readPhotograph, type Faulty, type Photograph as Reading } from "../../api/faults";
import { Bare } from "../../ui/Bare";
import { drag } from "../../ui/drag";
import { pictureOf } from "../../ui/pictures";
import { Quiet } from "../../ui/Quiet";
import { useDrop } from "../../ui/useDrop";
import { reason } from "../../work/reason";
import css from "./Photograph.module.css";

interface Props {
  of: Faulty;
  cols: number;
  /** What is read is what one sees. */
  onSeen: (cells: string[]) => void;
}

type Corner = Reading["corners"][number];

/** Larger pictures are made smaller before they are sent to the program. */
const BOUNDS = { side: 6000, most: 20 << 20 };
const CORNERS = ["Upper left", "Upper right", "Lower right", "Lower left"];
/** Below it a cell is doubtful. */
const DOUBTFUL = 0.5;

/** The real glass, read from a photograph: chosen, dropped or pasted, its corners moved where they were not found. */
export function Photograph({ of, cols, onSeen }: Props) {
  const file = useRef<HTMLInputElement>(null);
  const picture = useRef<HTMLDivElement>(null);
  const newest = useRef(0);
  const [shot, setShot] = useState<{ url: string; data: string; width: number; height: number }>();
  const [read, setRead] = useState<Reading>();
  const [corners, setCorners] = useState<Corner[]>();
  const [refused, setRefused] = useState<string>();
  const [busy, setBusy] = useState(false);

  const look = async (data: string, at?: Corner[]) => {
    const turn = ++newest.current;
    setBusy(true);
    try {
      const got = await readPhotograph(of, data, at);
      if (turn !== newest.current) return;
      setRead(got);
      setCorners(got.corners);
      setRefused(undefined);
    } catch (e) {
      if (turn !== newest.current) return;
      setRead(undefined);
      setRefused(reason(e));
    }
    setBusy(false);
  };
  const take = async (f: File | null | undefined) => {
    if (file.current) file.current.value = "";
    if (!f) return;
    try {
      const p = await pictureOf(f, BOUNDS);
      const url = `data:${p.type};base64,${p.data}`;
      const { width, height } = await sizeOf(url);
      const [left, right, top, low] = [0.15 * width, 0.85 * width, 0.35 * height, 0.65 * height];
      setShot({ url, data: p.data, width, height });
      setRead(undefined);
      setCorners([
        { x: left, y: top },
        { x: right, y: top },
        { x: right, y: low },
        { x: left, y: low },
      ]); // to be moved where no glass is found
      await look(p.data);
    } catch (e) {
      setRefused(e instanceof Error ? e.message : String(e));
    }
  };
  const { over, drops } = useDrop((files) => void take(files[0]));
  const onPaste = (e: ClipboardEvent) => {
    const image = [...e.clipboardData.files].find((f) => f.type.startsWith("image/"));
    if (!image) return;
    e.preventDefault();
    void take(image);
  };
  const leave = () => {
    newest.current++;
    setShot(undefined);
    setRead(undefined);
    setRefused(undefined);
    setBusy(false);
  };
  const move = (i: number, x: number, y: number) =>
    corners?.map((c, k) => (k === i && shot ? { x: within(x, shot.width), y: within(y, shot.height) } : c));
  const onKey = (i: number) => (e: KeyboardEvent) => {
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key];
    const c = corners?.[i];
    if (!by || !c || !shot) return;
    e.preventDefault();
    const step = (shot.width / 400) * (e.shiftKey ? 8 : 1);
    setCorners(move(i, c.x + step * (by[0] ?? 0), c.y + step * (by[1] ?? 0)));
  };
  const onPointer = (i: number) => (e: PointerEvent) => {
    const box = picture.current?.getBoundingClientRect();
    if (!box || !shot) return;
    let last = corners;
    drag(e, {
      move: (ev) => {
        last = move(
          i,
          ((ev.clientX - box.left) / box.width) * shot.width,
          ((ev.clientY - box.top) / box.height) * shot.height,
        );
        setCorners(last);
      },
      end: () => void look(shot.data, last),
    });
  };
  const doubtful = read?.cells.filter((c) => c.sure < DOUBTFUL && !read.blank).length ?? 0;
  return (
    <section
      className={css.photo}
      data-over={over || undefined}
      aria-label="From a photograph"
      onPaste={onPaste}
      {...drops}
    >
      <input
        ref={file}
        className="unseen"
        type="file"
        accept="image/jpeg,image/png"
        tabIndex={-1}
        aria-label="Photograph of the glass"
        onChange={(e) => void take(e.target.files?.[0])}
      />
      <div className={css.acts}>
        <Button variant="outlined" onClick={() => file.current?.click()}>
          {shot ? "Another photograph" : "Read a photograph"}
        </Button>
        {shot ? (
          <Quiet onClick={leave}>Leave it</Quiet>
        ) : (
          <small>JPEG or PNG; drop it here, or paste it. It stays on this machine.</small>
        )}
      </div>
      {shot && (
        <div ref={picture} className={css.picture} aria-busy={busy}>
          <img src={shot.url} alt="The photograph" draggable={false} />
          <svg viewBox={`0 0 ${shot.width} ${shot.height}`} role="img" aria-label="Where the cells lie">
            {read?.cells.map((c, i) => (
              <polygon
                key={i}
                points={pointsOf(c.outline)}
                data-doubtful={(c.sure < DOUBTFUL && !read.blank) || undefined}
              >
                <title>
                  {`Row ${Math.floor(i / cols) + 1}, column ${(i % cols) + 1}: code 0x${c.code.toString(16).toUpperCase().padStart(2, "0")}, ${Math.round(100 * c.sure)} % sure`}
                </title>
              </polygon>
            ))}
            {corners && <polygon className={css.frame} points={pointsOf(corners)} />}
          </svg>
          {corners?.map((c, i) => (
            <Bare
              key={CORNERS[i]}
              className={css.corner}
              aria-label={`${CORNERS[i]} corner of the cells`}
              title="Drag it, or move it with the arrow keys (Shift: further)"
              style={{ left: `${(100 * c.x) / shot.width}%`, top: `${(100 * c.y) / shot.height}%` }}
              onKeyDown={onKey(i)}
              onKeyUp={(e) => {
                if (e.key.startsWith("Arrow")) void look(shot.data, corners);
              }}
              onPointerDown={onPointer(i)}
            />
          ))}
        </div>
      )}
      {shot && busy && <p role="status">Reading the photograph…</p>}
      {refused && (
        <p role="alert" className={css.refused}>
          {refused}
          {shot && " Move its corners onto those of the cells."}
        </p>
      )}
      {read && !busy && (
        <>
          <p role="status">
            {read.blank
              ? "The glass is blank."
              : `${read.cells.length - doubtful} of ${read.cells.length} cells are read${doubtful > 0 ? "; the others are doubtful" : ""}.`}
          </p>
          {read.findings.length > 0 && (
            <ul className={css.findings} aria-label="What the photograph shows">
              {read.findings.map((f, i) => (
                <li key={i} data-severity={f.severity}>
                  <b>{f.what}</b> {f.fix}
                </li>
              ))}
            </ul>
          )}
          <Button variant="contained" onClick={() => onSeen(read.cells.map((c) => c.typed))}>
            It is what I see
          </Button>
        </>
      )}
    </section>
  );
}

const within = (v: number, most: number) => Math.max(0, Math.min(most, v));
const pointsOf = (list: Corner[]) => list.map((p) => `${p.x.toFixed(1)},${p.y.toFixed(1)}`).join(" ");

/** How large a picture is, turned as the camera says. */
async function sizeOf(url: string): Promise<{ width: number; height: number }> {
  const image = new Image();
  image.src = url;
  await image.decode().catch(() => {
    throw new Error("this is no photograph that can be read; expected a JPEG or PNG file");
  });
  return { width: image.naturalWidth, height: image.naturalHeight };
}
