// Pictures of mats: kept on the server by their content, beside the documents that show them; and as images to draw.
import { type Field, fieldSha } from "@giddy-pebble/core";
import { toBase64 } from "../base64.js";

/** PNGs that were sent or fetched, by their content. */
const known = new Map<string, string>();

/** A field as it is kept: its picture only by name. @returns the same field when it has none */
export function withoutPng(field: Field): Field {
  if (!field.picture?.png) return field;
  const { png: _, ...picture } = field.picture;
  return { ...field, picture };
}

/** A field with its picture's PNG at hand, fetched once. Without an answer the field stays as it is. */
export async function withPng(field: Field): Promise<Field> {
  const { picture } = field;
  if (!picture || picture.png) return field;
  let png = known.get(picture.asset) ?? null;
  if (png === null) {
    try {
      const response = await fetch(`/api/assets/${picture.asset}`, { signal: AbortSignal.timeout(15_000) });
      if (!response.ok) return field;
      png = toBase64(new Uint8Array(await response.arrayBuffer()));
      known.set(picture.asset, png);
    } catch {
      return field;
    }
  }
  return { ...field, picture: { ...picture, png } };
}

/** Keeps a picture on the server. @returns its name, or a sentence that says why not */
export async function keepPicture(bytes: Uint8Array): Promise<{ asset: string; png: string } | { problem: string }> {
  const png = toBase64(bytes);
  const asset = await fieldSha(png);
  try {
    const response = await fetch(`/api/assets/${asset}`, {
      method: "PUT",
      body: bytes as never,
      headers: { "content-type": "image/png" },
      signal: AbortSignal.timeout(30_000),
    });
    if (!response.ok) {
      const said = (await response.json().catch(() => null)) as { detail?: string } | null;
      return { problem: said?.detail ?? "The server did not take the picture. Try again." };
    }
  } catch {
    return { problem: "The server does not answer, so the picture is not kept. Try again in a moment." };
  }
  known.set(asset, png);
  return { asset, png };
}

const images = new Map<string, ImageBitmap | "loading">();
const waiting = new Set<() => void>();

/** Tells when a picture became ready to draw. */
export function onPictures(ask: () => void): () => void {
  waiting.add(ask);
  return () => waiting.delete(ask);
}

/** The picture of a field to draw; null until it is there. */
export function pictureImage(field: Field): ImageBitmap | null {
  const { picture } = field;
  if (!picture?.png) return null;
  const image = images.get(picture.asset);
  if (image) return image === "loading" ? null : image;
  images.set(picture.asset, "loading");
  const bytes = Uint8Array.from(atob(picture.png), (one) => one.charCodeAt(0));
  void createImageBitmap(new Blob([bytes], { type: "image/png" }))
    .then((made) => images.set(picture.asset, made))
    .then(() => {
      for (const ask of waiting) ask();
    })
    .catch(() => {});
  return null;
}
