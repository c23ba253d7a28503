// A short fingerprint of numbers, for telling whether two traces are equal bit for bit.
// Two 32-bit lanes with the finaliser of MurmurHash3 (Appleby, public domain). Not for secrets.

interface Fingerprint {
  words(data: Uint32Array): void;
  text(data: string): void;
  hex(): string;
}

export function fingerprint(): Fingerprint {
  let a = 0x243f6a88;
  let b = 0x85a308d3;
  const word = (w: number) => {
    a = Math.imul(a ^ w, 0xcc9e2d51);
    a = (a << 13) | (a >>> 19);
    b = Math.imul((b + w) | 0, 0x1b873593) ^ a;
    b = (b << 15) | (b >>> 17);
  };
  const finish = (h: number) => {
    let x = Math.imul(h ^ (h >>> 16), 0x85ebca6b);
    x = Math.imul(x ^ (x >>> 13), 0xc2b2ae35);
    return (x ^ (x >>> 16)) >>> 0;
  };
  const hex8 = (n: number) => n.toString(16).padStart(8, "0");
  return {
    words(data) {
      for (let i = 0; i < data.length; i += 1) word(data[i] as number);
    },
    text(data) {
      for (let i = 0; i < data.length; i += 1) word(data.charCodeAt(i));
      word(data.length);
    },
    hex: () => hex8(finish(a)) + hex8(finish(b ^ finish(a))),
  };
}
