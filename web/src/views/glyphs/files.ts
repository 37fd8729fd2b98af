/** The bytes of a file in base64. */
export async function base64Of(file: Blob): Promise<string> {
  const data = new Uint8Array(await file.arrayBuffer());
  let text = "";
  for (let at = 0; at < data.length; at += 0x8000) text += String.fromCharCode(...data.subarray(at, at + 0x8000));
  return btoa(text);
}
