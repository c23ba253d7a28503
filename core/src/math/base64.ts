// Bytes as text and back (RFC 4648, base64), by the platform's own functions.
declare const atob: (text: string) => string;
declare const btoa: (bytes: string) => string;

const CHUNK = 0x8000;

export function toBase64(bytes: Uint8Array): string {
  let text = "";
  for (let i = 0; i < bytes.length; i += CHUNK) text += String.fromCharCode(...bytes.subarray(i, i + CHUNK));
  return btoa(text);
}

/** @throws Error if it is not base64 */
export function fromBase64(text: string): Uint8Array {
  const characters = atob(text);
  const bytes = new Uint8Array(characters.length);
  for (let i = 0; i < characters.length; i += 1) bytes[i] = characters.charCodeAt(i);
  return bytes;
}
