import { readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { gzipSync } from "node:zlib";
import type { Plugin } from "vite";

/** Files shorter than this stay as they are, in bytes. */
const SHORT = 2048;

/**
 * Packs the text among the built files, each into a .gz in its place, once all are written: the program carries them, and hands them out, packed.
 * The page itself stays as it is, since each answer gets a nonce.
 */
export const packed = (): Plugin => ({
  name: "packed",
  apply: "build",
  closeBundle() {
    for (const file of readdirSync("dist", { recursive: true, encoding: "utf8" })) {
      if (!/\.(js|css|txt|svg)$/.test(file)) continue;
      const name = join("dist", file);
      const text = readFileSync(name);
      if (text.length < SHORT) continue;
      writeFileSync(`${name}.gz`, gzipSync(text, { level: 9 }));
      rmSync(name);
    }
  },
});
