/** The bytes of a file in base64. */
export async function base64Of(file: Blob): Promise<string> {
  const data = new Uint8Array(await file.arrayBuffer());
  let text = "";
  for (let at = 0; at < data.length; at += 0x8000) text += String.fromCharCode(...data.subarray(at, at + 0x8000));
  return btoa(text);
}

/** Hands a text over as a file to keep. */
export function download(name: string, text: string): void {
  const url = URL.createObjectURL(new Blob([text], { type: "text/plain;charset=utf-8" }));
  const link = document.createElement("a");
  link.href = url;
  link.download = name;
  link.click();
  window.setTimeout(() => URL.revokeObjectURL(url), 1000);
}
