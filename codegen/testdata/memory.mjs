// Says how many bytes of MicroPython's heap a generated module takes once it is there, and its inputs with it.
//
//     node memory.mjs MICROPYTHON.MJS DIRECTORY MODULE PRELUDE.py...
import fs from "node:fs";
import path from "node:path";
import { pathToFileURL } from "node:url";

const [runtime, directory, name, ...prelude] = process.argv.slice(2);
const { loadMicroPython } = await import(pathToFileURL(runtime));
let said = "";
const mp = await loadMicroPython({ heapsize: 4 * 1024 * 1024, stdout: (text) => (said = text) });
mp.registerJsModule("outside", { tell: () => undefined, ask: () => 0 });
for (const file of [name + ".py", "inputs.py"])
  if (fs.existsSync(path.join(directory, file)))
    mp.FS.writeFile("/" + file, fs.readFileSync(path.join(directory, file), "utf8"));
mp.runPython("script = []\nquiet = [1 << 30]");
for (const file of prelude) mp.runPython(fs.readFileSync(file, "utf8"));
const reads = fs.existsSync(path.join(directory, "inputs.py")) ? "import inputs" : "";
mp.runPython(`import sys, gc
sys.path.insert(0, "/")
gc.collect()
was = gc.mem_alloc()
import ${name} as displays
${reads}
gc.collect()
print(gc.mem_alloc() - was)`);
console.log(said);
