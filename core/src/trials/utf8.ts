// UTF-8 without TextEncoder: core has no platform. Source: RFC 3629.

/** Code units turned into a string at a time: well below what any engine takes as arguments. */
const PIECE = 8192;
const REPLACEMENT = 0xfffd;

/** @returns bytes; half a surrogate pair becomes U+FFFD */
export function toUtf8(text: string): Uint8Array {
  const bytes = new Uint8Array(text.length * 3);
  let at = 0;
  for (let i = 0; i < text.length; i += 1) {
    let code = text.codePointAt(i) as number;
    if (code > 0xffff) i += 1;
    else if (code >= 0xd800 && code <= 0xdfff) code = REPLACEMENT;
    if (code < 0x80) bytes[at++] = code;
    else if (code < 0x800) {
      bytes[at++] = 0xc0 | (code >> 6);
      bytes[at++] = 0x80 | (code & 63);
    } else if (code < 0x10000) {
      bytes[at++] = 0xe0 | (code >> 12);
      bytes[at++] = 0x80 | ((code >> 6) & 63);
      bytes[at++] = 0x80 | (code & 63);
    } else {
      bytes[at++] = 0xf0 | (code >> 18);
      bytes[at++] = 0x80 | ((code >> 12) & 63);
      bytes[at++] = 0x80 | ((code >> 6) & 63);
      bytes[at++] = 0x80 | (code & 63);
    }
  }
  return bytes.slice(0, at);
}

/** How many bytes follow a first byte, its own bits, and the least code such a sequence may hold. */
function leadOf(byte: number): { readonly more: number; readonly bits: number; readonly least: number } | null {
  if (byte < 0x80) return { more: 0, bits: byte, least: 0 };
  if (byte >= 0xc2 && byte < 0xe0) return { more: 1, bits: byte & 31, least: 0x80 };
  if (byte >= 0xe0 && byte < 0xf0) return { more: 2, bits: byte & 15, least: 0x800 };
  if (byte >= 0xf0 && byte < 0xf5) return { more: 3, bits: byte & 7, least: 0x10000 };
  return null;
}

/** @returns the text, or null when the bytes are not UTF-8 */
export function fromUtf8(bytes: Uint8Array): string | null {
  let text = "";
  let units: number[] = [];
  for (let at = 0; at < bytes.length; ) {
    const lead = leadOf(bytes[at] as number);
    if (!lead || at + lead.more >= bytes.length) return null;
    let code = lead.bits;
    for (let k = 1; k <= lead.more; k += 1) {
      const next = bytes[at + k] as number;
      if ((next & 0xc0) !== 0x80) return null;
      code = (code << 6) | (next & 63);
    }
    if (code < lead.least || code > 0x10ffff || (code >= 0xd800 && code <= 0xdfff)) return null;
    at += lead.more + 1;
    if (code < 0x10000) units.push(code);
    else units.push(0xd800 + ((code - 0x10000) >> 10), 0xdc00 + ((code - 0x10000) & 0x3ff));
    if (units.length < PIECE) continue;
    text += String.fromCharCode(...units);
    units = [];
  }
  return text + String.fromCharCode(...units);
}
