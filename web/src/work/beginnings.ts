import { client, importBench, unwrap, type BenchDocument } from "../api/client";
import { reason } from "./reason";

/** Files of benches have this many bytes at most, as all that is sent; longer ones are read by the command line. */
const LONGEST = 16 << 20;

/** The demo's bench, which is put on the shelf where it is not there. */
export const openDemo = async () => unwrap(await client.POST("/api/benches/demo"));

/** Puts a bench on the shelf that a file has. Its error names the file. */
export async function readBenchFile(f: File): Promise<BenchDocument> {
  if (f.size > LONGEST)
    throw new Error(`${f.name} is larger than 16 MiB; slatebell import reads it on the command line`);
  const text = await f.text();
  try {
    return await importBench(text);
  } catch (e) {
    throw new Error(`${f.name} was not imported: ${reason(e)}`, { cause: e });
  }
}
