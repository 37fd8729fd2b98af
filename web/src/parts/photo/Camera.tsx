import Button from "@mui/material/Button";
import { useEffect, useRef, useState } from "react";
import { Quiet } from "../../ui/Quiet";
import css from "./Photograph.module.css";

interface Props {
  onTaken: (file: File) => void;
  onClose: () => void;
}

/** This computer's own camera: what it sees, and a button that takes it. */
export function Camera({ onTaken, onClose }: Props) {
  const video = useRef<HTMLVideoElement>(null);
  const [refused, setRefused] = useState<string>();
  const [sees, setSees] = useState(false);
  useEffect(() => {
    let stream: MediaStream | undefined;
    let gone = false;
    navigator.mediaDevices
      .getUserMedia({ video: { facingMode: "environment", width: { ideal: 1920 } } })
      .then((s) => {
        stream = s;
        if (gone) s.getTracks().forEach((t) => t.stop());
        else if (video.current) video.current.srcObject = s;
      })
      .catch((e: unknown) =>
        setRefused(
          e instanceof DOMException && e.name === "NotAllowedError"
            ? "The browser does not let this page use the camera. Allow it beside the address, or choose a file."
            : "No camera can be opened. Choose a file, or take the photograph with the telephone.",
        ),
      );
    return () => {
      gone = true;
      stream?.getTracks().forEach((t) => t.stop());
    };
  }, []);
  const take = async () => {
    const v = video.current;
    if (!v) return;
    const canvas = new OffscreenCanvas(v.videoWidth, v.videoHeight);
    canvas.getContext("2d")?.drawImage(v, 0, 0);
    onTaken(
      new File([await canvas.convertToBlob({ type: "image/jpeg", quality: 0.95 })], "camera.jpg", {
        type: "image/jpeg",
      }),
    );
  };
  return (
    <div className={css.camera}>
      <video
        ref={video}
        autoPlay
        muted
        playsInline
        aria-label="What the camera sees"
        hidden={refused !== undefined}
        onCanPlay={() => setSees(true)}
      />
      {refused && (
        <p role="alert" className={css.refused}>
          {refused}
        </p>
      )}
      <div className={css.acts}>
        <Button variant="contained" disabled={!sees} onClick={() => void take()}>
          Take it
        </Button>
        <Quiet onClick={onClose}>Close the camera</Quiet>
      </div>
    </div>
  );
}
