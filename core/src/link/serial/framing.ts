// Frames on a serial line: bytes without zeros between zeros (COBS, Cheshire and Baker 1999), each with a kind before and
// a checksum behind it (CRC-16 with the polynomial 0x1021, begun with ones; of "123456789" it is 0x29B1).

/** @param bytes - of any length @returns 16 bits */
export function crc16(bytes: Uint8Array): number {
  let sum = 0xffff;
  for (const byte of bytes) {
    sum ^= byte << 8;
    for (let i = 0; i < 8; i += 1) sum = sum & 0x8000 ? ((sum << 1) ^ 0x1021) & 0xffff : (sum << 1) & 0xffff;
  }
  return sum;
}

/** Longest frame that either end sends, bytes with kind and checksum. */
const MOST_BYTES = 254;

/** @param payload - at most 251 bytes @returns the frame with a zero before and behind it */
export function writeSerialFrame(kind: number, payload: Uint8Array): Uint8Array {
  const plain = new Uint8Array(payload.length + 3);
  if (plain.length > MOST_BYTES) throw new RangeError(`A frame has at most ${MOST_BYTES} bytes.`);
  plain[0] = kind;
  plain.set(payload, 1);
  const sum = crc16(plain.subarray(0, -2));
  plain[plain.length - 2] = sum & 0xff;
  plain[plain.length - 1] = sum >> 8;
  const coded = new Uint8Array(plain.length + 3);
  let countAt = 1;
  let at = 2;
  for (const byte of plain) {
    if (byte === 0) {
      coded[countAt] = at - countAt;
      countAt = at;
    } else coded[at] = byte;
    at += 1;
  }
  coded[countAt] = at - countAt;
  return coded;
}

interface SerialFrame {
  readonly kind: number;
  readonly payload: Uint8Array;
}

/** Takes bytes as they come, in any pieces, and gives the frames that are whole and right. */
export class SerialReader {
  /** Frames that were neither. */
  bad = 0;
  private readonly plain = new Uint8Array(MOST_BYTES);
  private count = 0;
  private left = 0;
  private wasFull = false;
  private broken = false;

  take(bytes: Uint8Array): SerialFrame[] {
    const frames: SerialFrame[] = [];
    for (const byte of bytes) {
      if (byte === 0) {
        const frame = this.end();
        if (frame) frames.push(frame);
      } else if (this.left > 0) {
        this.keep(byte);
        this.left -= 1;
      } else {
        if (this.wasFull) this.keep(0);
        this.left = byte - 1;
        // 255 stands for 254 bytes without a zero behind them.
        this.wasFull = byte !== 255;
      }
    }
    return frames;
  }

  private keep(byte: number): void {
    if (this.count >= MOST_BYTES) this.broken = true;
    else {
      this.plain[this.count] = byte;
      this.count += 1;
    }
  }

  private end(): SerialFrame | null {
    const { count, left, broken, plain } = this;
    this.count = 0;
    this.left = 0;
    this.broken = false;
    const began = this.wasFull;
    this.wasFull = false;
    if (count === 0 && left === 0 && !broken && !began) return null;
    const whole = !broken && left === 0 && count >= 3;
    const sum = whole ? (plain[count - 2] as number) | ((plain[count - 1] as number) << 8) : 0;
    if (!whole || crc16(plain.subarray(0, count - 2)) !== sum) {
      this.bad += 1;
      return null;
    }
    return { kind: plain[0] as number, payload: plain.slice(1, count - 2) };
  }
}
