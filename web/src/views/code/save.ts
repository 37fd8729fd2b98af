import { strToU8, zipSync } from "fflate";
import type { CodeFile } from "../../api/code";

/** Gives a file to keep. */
export function keep(name: string, data: BlobPart, type = "text/plain;charset=utf-8") {
  const url = URL.createObjectURL(new Blob([data], { type }));
  const a = document.createElement("a");
  a.href = url;
  a.download = name;
  a.click();
  window.setTimeout(() => URL.revokeObjectURL(url), 1000);
}

/** All files in one. */
export function keepAll(name: string, files: CodeFile[]) {
  const packed = zipSync(Object.fromEntries(files.map((f) => [f.name, strToU8(f.text)])));
  keep(name, packed as Uint8Array<ArrayBuffer>, "application/zip");
}
