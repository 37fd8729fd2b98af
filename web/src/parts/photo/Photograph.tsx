import Button from "@mui/material/Button";
import { useRef, useState, type ClipboardEvent, type ReactNode } from "react";
import type { Glass } from "../../api/client";
import type { Faulty } from "../../api/faults";
import type { Photograph as Reading } from "../../api/photos";
import { Quiet } from "../../ui/Quiet";
import { fileOf, pictureOf } from "../../ui/pictures";
import { placed, useBase } from "../../ui/places";
import { useDrop } from "../../ui/useDrop";
import { useBench } from "../../work/BenchContext";
import { reason } from "../../work/reason";
import { useAttempt } from "../../work/useAttempt";
import { useNote } from "../../work/useLog";
import { Camera } from "./Camera";
import { DOUBTFUL, PhotoPicture } from "./PhotoPicture";
import { TwoGlasses } from "./TwoGlasses";
import { usePhotograph, type Shot } from "./usePhotograph";
import css from "./Photograph.module.css";

interface Props {
  of: Faulty;
  /** What it is called among others of the view. */
  name?: string;
  /** What the button says that begins it. */
  title?: string;
  /** What it may show. */
  among?: Glass[];
  /** What is made of what was read. */
  children: (read: Reading) => ReactNode;
}

/** The real glass, read from a photograph: chosen, dropped, pasted or taken here, its corners moved where they were not found. */
export function Photograph({ of, name = "From a photograph", title = "Read a photograph", among, children }: Props) {
  const { module } = useBench();
  const file = useRef<HTMLInputElement>(null);
  const [camera, setCamera] = useState(false);
  const { shot, read, corners, grid, refused, busy, take, move, leave, again } = usePhotograph(
    of,
    module.display,
    among,
  );
  const { over, drops } = useDrop((files) => void take(files[0]));
  const onPaste = (e: ClipboardEvent) => {
    const image = [...e.clipboardData.files].find((f) => f.type.startsWith("image/"));
    if (!image) return;
    e.preventDefault();
    void take(image);
  };
  return (
    <section className={css.photo} data-over={over || undefined} aria-label={name} onPaste={onPaste} {...drops}>
      <input
        ref={file}
        className="unseen"
        type="file"
        accept="image/jpeg,image/png"
        tabIndex={-1}
        aria-label="Photograph of the glass"
        onChange={(e) => {
          void take(e.target.files?.[0]);
          e.target.value = "";
        }}
      />
      <div className={css.acts}>
        <Button variant="outlined" onClick={() => file.current?.click()}>
          {shot ? "Another photograph" : title}
        </Button>
        {"mediaDevices" in navigator && !camera && <Quiet onClick={() => setCamera(true)}>Camera</Quiet>}
        {shot ? (
          <Quiet onClick={leave}>Leave it</Quiet>
        ) : (
          <small>JPEG or PNG; drop it here, or paste it. It stays on this machine.</small>
        )}
      </div>
      {camera && (
        <Camera
          onTaken={(f) => {
            setCamera(false);
            void take(f);
          }}
          onClose={() => setCamera(false)}
        />
      )}
      {shot && (
        <PhotoPicture
          shot={shot}
          grid={grid}
          read={read}
          corners={corners}
          busy={busy}
          onMove={move}
          onMoved={(at) => void again({ corners: at })}
        />
      )}
      {shot && busy && <p role="status">Reading the photograph…</p>}
      {refused && (
        <p role="alert" className={css.refused}>
          {refused}
          {shot && ". Or move its corners onto those of the cells."}
        </p>
      )}
      {shot && !busy && (
        <div className={css.acts}>
          <Quiet onClick={() => void again({ anySize: true })}>Which size is it?</Quiet>
          <Quiet onClick={() => void again({})}>Find the glass anew</Quiet>
          <KeepIt shot={shot} read={read} />
        </div>
      )}
      {read && !busy && (
        <>
          <Says read={read} />
          <TwoGlasses read={read} tint={module.display.tint} width={372} />
          {children(read)}
        </>
      )}
    </section>
  );
}

/** What was read, in words; a size that the module does not have can be taken over. */
function Says({ read }: { read: Reading }) {
  const { module } = useBench();
  const base = useBase();
  const { attempt, error } = useAttempt();
  const doubtful = read.cells.filter((c) => c.sure < DOUBTFUL && !read.blank).length;
  const { geometry } = read;
  const other = geometry !== module.display.geometry;
  return (
    <>
      <p role="status">
        {read.blank
          ? "The glass is blank."
          : `${read.cells.length - doubtful} of ${read.cells.length} cells are read${doubtful > 0 ? "; the others are doubtful" : ""}.`}
        {other && ` It looks like ${geometry.replace("x", " × ")}.`}
      </p>
      {other && (
        <Quiet onClick={() => void attempt((m) => ({ ...m, display: { ...m.display, geometry } }))}>
          Make this module {geometry.replace("x", " × ")}
        </Quiet>
      )}
      {error && <p role="alert">{error}</p>}
      {read.findings.length > 0 && (
        <ul className={css.findings} aria-label="What the photograph shows">
          {read.findings.map((f, i) => (
            <li key={i} data-severity={f.severity}>
              <b>{placed(f.what, f.places, base)}</b> {f.fix}
            </li>
          ))}
        </ul>
      )}
    </>
  );
}

/** The log keeps pictures so small. */
const KEPT = { side: 1600, most: 1 << 20 };

/** Puts the photograph into the log, with what was read. */
function KeepIt({ shot, read }: { shot: Shot; read: Reading | undefined }) {
  const note = useNote();
  const [said, say] = useState<{ shot: Shot; text: string }>();
  const keep = async () => {
    try {
      const small = await pictureOf(fileOf(shot.picture), KEPT);
      const rows = read?.rows.map((r) => `“${r}”`).join(", ") ?? "";
      const text = rows && !read?.blank ? `The glass shows ${rows}.` : "A photograph of the glass.";
      await note({ kind: "note", text, pictures: [small] });
      say({ shot, text: "It is in the log." });
    } catch (e) {
      say({ shot, text: reason(e) });
    }
  };
  return (
    <>
      <Quiet onClick={() => void keep()}>Keep it in the log</Quiet>
      <span role="status">{said?.shot === shot ? said.text : ""}</span>
    </>
  );
}
