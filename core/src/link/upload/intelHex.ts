// Files of programs in Intel's hexadecimal format (Intel, Hexadecimal Object File Format Specification, 1988).

/** @returns the program's bytes from address 0, gaps as 0xFF; null for what is no such file or larger than `most` bytes */
export function readIntelHex(text: string, most: number): Uint8Array | null {
  const image = new Uint8Array(most).fill(0xff);
  let size = 0;
  let base = 0;
  for (const line of text.split(/\r?\n/)) {
    if (line === "") continue;
    if (!/^:([0-9A-Fa-f]{2}){5,}$/.test(line)) return null;
    const bytes = (line.slice(1).match(/../g) ?? []).map((digits) => Number.parseInt(digits, 16));
    const [count = 0, high = 0, low = 0, kind = 0] = bytes;
    if (bytes.length !== count + 5 || (bytes.reduce((sum, byte) => sum + byte, 0) & 0xff) !== 0) return null;
    const data = bytes.slice(4, -1);
    if (kind === 1) return image.slice(0, size);
    if (kind === 2 && count === 2) base = (((data[0] as number) << 8) | (data[1] as number)) << 4;
    else if (kind === 4 && count === 2) base = (((data[0] as number) << 8) | (data[1] as number)) * 65_536;
    else if (kind === 0) {
      const at = base + ((high << 8) | low);
      if (at + count > most) return null;
      image.set(data, at);
      size = Math.max(size, at + count);
    }
  }
  // Without its last line the file was cut.
  return null;
}
