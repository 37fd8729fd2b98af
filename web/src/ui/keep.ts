/** Hands data over as a file to keep. */
export function keep(name: string, data: BlobPart, type = "text/plain;charset=utf-8"): void {
  const url = URL.createObjectURL(new Blob([data], { type }));
  const a = document.createElement("a");
  a.href = url;
  a.download = name;
  a.click();
  window.setTimeout(() => URL.revokeObjectURL(url), 1000);
}
