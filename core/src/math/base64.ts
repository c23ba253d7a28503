// Bytes as text and back (RFC 4648, base64), by the platform's own functions.
declare const atob: (text: string) => string;
declare const btoa: (bytes: string) => string;

const CHUNK = 0x8000;

export function toBase64(bytes: Uint8Array): string {
  let text = "";
  for (let i = 0; i < bytes.length; i += CHUNK) text += String.fromCharCode(...bytes.subarray(i, i + CHUNK));
  return btoa(text);
}

/** Newer browsers, and Node, turn text into bytes in one call. */
interface Platform {
  readonly Uint8Array: { readonly fromBase64?: (text: string) => Uint8Array };
  readonly Buffer?: { from(text: string, encoding: "base64"): Uint8Array };
}

/** By Node, which passes over what is no base64; null where that may be so. */
function quickly(text: string, Node: NonNullable<Platform["Buffer"]>): Uint8Array | null {
  if (text.length % 4 !== 0 || text.includes("-") || text.includes("_")) return null;
  const bytes = Node.from(text, "base64");
  const filled = text.length - (text.endsWith("==") ? 2 : text.endsWith("=") ? 1 : 0);
  return bytes.length === Math.floor((filled * 3) / 4) ? new Uint8Array(bytes) : null;
}

/** @throws Error if it is not base64 */
export function fromBase64(text: string): Uint8Array {
  const { Uint8Array: Bytes, Buffer } = globalThis as unknown as Platform;
  if (Bytes.fromBase64) return Bytes.fromBase64(text);
  const quick = Buffer && quickly(text, Buffer);
  if (quick) return quick;
  const characters = atob(text);
  const bytes = new Uint8Array(characters.length);
  for (let i = 0; i < characters.length; i += 1) bytes[i] = characters.charCodeAt(i);
  return bytes;
}
