/** A picture as it is sent: its file, in base 64. */
export interface Picture {
  name: string;
  type: "image/png" | "image/jpeg";
  data: string;
}

/** What pictures are made smaller to: the longest side, in pixels, and the bytes that they may have. */
export interface Bounds {
  side: number;
  most: number;
}

/** Photographs that the program reads: larger ones are made smaller before they are sent. */
export const PHOTOGRAPH: Bounds = { side: 6000, most: 20 << 20 };

/** Reads a picture, made smaller where it is a large one. */
export async function pictureOf(file: File, { side, most }: Bounds): Promise<Picture> {
  if (file.type !== "image/png" && file.type !== "image/jpeg")
    throw new Error(`“${file.name}” is no picture; expected PNG or JPEG`);
  if (file.size <= most / 2) return { name: file.name, type: file.type, data: await base64(file) };
  const image = await createImageBitmap(file).catch(() => undefined);
  if (!image) throw new Error(`“${file.name}” cannot be read as a picture`);
  const by = Math.min(1, side / Math.max(image.width, image.height));
  const canvas = new OffscreenCanvas(Math.round(image.width * by), Math.round(image.height * by));
  canvas.getContext("2d")?.drawImage(image, 0, 0, canvas.width, canvas.height);
  const small = await canvas.convertToBlob({ type: "image/jpeg", quality: 0.8 });
  if (small.size > most) throw new Error(`“${file.name}” is too large even when it is made smaller`);
  return { name: file.name, type: "image/jpeg", data: await base64(small) };
}

/** A picture as a file again. */
export const fileOf = ({ name, type, data }: Picture): File =>
  new File([Uint8Array.from(atob(data), (c) => c.charCodeAt(0))], name, { type });

async function base64(blob: Blob): Promise<string> {
  const bytes = new Uint8Array(await blob.arrayBuffer());
  let text = "";
  for (let i = 0; i < bytes.length; i += 8192) text += String.fromCharCode(...bytes.subarray(i, i + 8192));
  return btoa(text);
}
