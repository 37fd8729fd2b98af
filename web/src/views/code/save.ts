import { strToU8, zipSync } from "fflate";
import type { CodeFile } from "../../api/code";
import { keep } from "../../ui/keep";

/** All files in one. */
export function keepAll(name: string, files: CodeFile[]) {
  const packed = zipSync(Object.fromEntries(files.map((f) => [f.name, strToU8(f.text)])));
  keep(name, packed as Uint8Array<ArrayBuffer>, "application/zip");
}
