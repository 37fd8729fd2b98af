// Runs a generated module in MicroPython, whose machine and time are here: calls come in on
// standard input, a line of Python each; what the module asks of its host goes out on standard
// output, a line each, as testdata/host.c has it.
//
//     node micropython.mjs MICROPYTHON.MJS DIRECTORY MODULE PRELUDE.py
import fs from "node:fs";
import path from "node:path";
import { pathToFileURL } from "node:url";

const [runtime, directory, name, prelude] = process.argv.slice(2);
const { loadMicroPython } = await import(pathToFileURL(runtime));

let buffered = "";

/** A line of standard input; null at its end. */
function line() {
  const chunk = Buffer.alloc(4096);
  while (!buffered.includes("\n")) {
    let n = 0;
    try {
      n = fs.readSync(0, chunk);
    } catch (e) {
      if (e.code === "EAGAIN") {
        Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, 1);
        continue;
      }
      throw e;
    }
    if (n === 0) return null;
    buffered += chunk.toString("utf8", 0, n);
  }
  const end = buffered.indexOf("\n");
  const out = buffered.slice(0, end);
  buffered = buffered.slice(end + 1);
  return out;
}

let said = "";
const tell = (text) => {
  said += text + "\n";
};
const flush = () => {
  while (said) said = said.slice(fs.writeSync(1, said));
};
const ask = (text) => {
  tell(text);
  flush();
  return Number(line());
};

const mp = await loadMicroPython({ heapsize: 4 * 1024 * 1024, stdout: (text) => process.stderr.write(text + "\n") });
mp.registerJsModule("outside", { tell, ask });
const source = fs.readFileSync(path.join(directory, name + ".py"), "utf8");
mp.FS.writeFile("/" + name + ".py", source);
if (fs.existsSync(path.join(directory, "inputs.py")))
  mp.FS.writeFile("/inputs.py", fs.readFileSync(path.join(directory, "inputs.py"), "utf8"));
mp.runPython(fs.readFileSync(prelude, "utf8"));
mp.runPython(`import sys\nsys.path.insert(0, "/")\nimport ${name} as displays`);
for (let call = line(); call !== null; call = line()) {
  let status = "0";
  try {
    mp.runPython(call);
  } catch (e) {
    status = "1 " + String(e.message ?? e).replaceAll("\n", " | ");
  }
  tell("= " + status);
  flush();
}
