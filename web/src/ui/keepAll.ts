import { strToU8, zipSync } from "fflate";
import { keep } from "./keep";

/** All files in one. */
export function keepAll(name: string, files: { name: string; text: string }[]) {
  const packed = zipSync(Object.fromEntries(files.map((f) => [f.name, strToU8(f.text)])));
  keep(name, packed as Uint8Array<ArrayBuffer>, "application/zip");
}
