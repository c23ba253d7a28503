// Names, texts and comments of written programs. Whatever a mission's names and texts hold, nothing of it can end a
// comment or a text early, or be taken for code.

/** Names that follow this prefix can be no word of a language and no macro. */
export class Names {
  private readonly given = new Map<string, string>();
  private readonly taken = new Set<string>();

  /** @param words - names that a language has for itself */
  constructor(
    private readonly prefix: string,
    private readonly words: readonly string[] = [],
  ) {}

  /** @param key - what it stands for; the same key has the same name */
  of(key: string, words = key): string {
    const known = this.given.get(key);
    if (known !== undefined) return known;
    const letters = words
      .replace(/[^A-Za-z0-9]+/g, "_")
      .replace(/^_+|_+$/g, "")
      .slice(0, 40);
    const begun = this.prefix === "" && !/^[A-Za-z]/.test(letters) ? `n${letters}` : `${this.prefix}${letters}`;
    const plain = this.words.includes(begun) ? `${begun}_` : begun;
    let name = plain;
    for (let n = 2; this.taken.has(name); n += 1) name = `${plain}_${n}`;
    this.taken.add(name);
    this.given.set(key, name);
    return name;
  }
}

/** A line for a comment: printable, no backslash at which a line could go on, no sign that turns the writing about. */
export function commentWords(text: string): string {
  return text
    .replace(/\\/g, "/")
    .replace(/[\p{Cc}\p{Cf}\p{Zl}\p{Zp}\p{Co}\p{Cs}]+/gu, " ")
    .replace(/\*\//g, "* /")
    .trim()
    .slice(0, 160);
}

/** A text between quotes, all but plain letters as octal bytes of UTF-8: the same in C++ and in Python's bytes. */
export function quoted(text: string, most = 200): string {
  let out = "";
  for (const byte of utf8(text).slice(0, most)) {
    const letter = String.fromCharCode(byte);
    out += /[A-Za-z0-9 .,:;%+/()=<>!_-]/.test(letter) ? letter : `\\${byte.toString(8).padStart(3, "0")}`;
  }
  return `"${out}"`;
}

/** A text between quotes for Python: all but plain letters as escapes. */
export function pythonText(text: string, most = 200): string {
  let out = "";
  for (const letter of [...text].slice(0, most)) {
    const point = letter.codePointAt(0) ?? 63;
    const hex = (digits: number) => point.toString(16).padStart(digits, "0");
    if (/[A-Za-z0-9 .,:;%+/()=<>!_-]/.test(letter)) out += letter;
    else if (point >= 0xd800 && point <= 0xdfff) out += "?";
    else out += point < 0x100 ? `\\x${hex(2)}` : point < 0x10000 ? `\\u${hex(4)}` : `\\U${hex(8)}`;
  }
  return `"${out}"`;
}

/** Bytes of a text; half a pair reads as a question mark. */
function utf8(text: string): number[] {
  const bytes: number[] = [];
  for (const letter of text) {
    const point = letter.codePointAt(0) ?? 63;
    const code = point >= 0xd800 && point <= 0xdfff ? 63 : point;
    if (code < 0x80) bytes.push(code);
    else if (code < 0x800) bytes.push(0xc0 | (code >> 6), 0x80 | (code & 63));
    else if (code < 0x10000) bytes.push(0xe0 | (code >> 12), 0x80 | ((code >> 6) & 63), 0x80 | (code & 63));
    else bytes.push(0xf0 | (code >> 18), 0x80 | ((code >> 12) & 63), 0x80 | ((code >> 6) & 63), 0x80 | (code & 63));
  }
  return bytes;
}

/** A number as C++ and Python read it: always with a point, so that it is no whole number. */
export function decimal(value: number): string {
  if (value === Number.POSITIVE_INFINITY) return "ENDLESS";
  if (value === Number.NEGATIVE_INFINITY) return "-ENDLESS";
  if (!(Math.abs(value) >= 0)) return "NAN";
  const short = Number(value.toPrecision(9)).toString();
  return /[.e]/.test(short) ? short : `${short}.0`;
}
