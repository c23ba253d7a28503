// Reading what is sent, in pieces and within limits: a body that is too large is left unread, and what a database
// or a screen could not hold is refused before anyone looks at it.

/** Larger bodies are read a few at a time, so that many at once cannot fill the memory, bytes. */
const LARGE_BYTES = 512 * 1024;
const LARGE_AT_ONCE = 2;
/** A body that takes longer to arrive is given up, ms. */
const SLOWEST_MS = 20_000;
/** Deepest JSON taken: three times what our documents need. */
const DEEPEST = 48;

/** Why a body is not taken. */
export class Unreadable extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
  ) {
    super(message);
  }
}

let largeInHand = 0;
const waiting: (() => void)[] = [];

async function takeTurn(): Promise<void> {
  if (largeInHand < LARGE_AT_ONCE) {
    largeInHand += 1;
    return;
  }
  await new Promise<void>((resolve) => waiting.push(resolve));
}

function giveTurn(): void {
  const next = waiting.shift();
  if (next) next();
  else largeInHand -= 1;
}

function sizeWords(bytes: number): string {
  return bytes >= 1024 * 1024 ? `${Math.round(bytes / 1024 / 1024)} MB` : `${Math.round(bytes / 1024)} KB`;
}

function tooLarge(most: number): Unreadable {
  return new Unreadable(
    413,
    "too-large",
    `This is larger than ${sizeWords(most)}, the most that is taken. Send less at once.`,
  );
}

/**
 * Does the work of a request. Those with a large body, or one that does not say its size, wait until few others are
 * in hand, before they are read.
 */
export async function inTurn<T>(request: Request, work: () => Promise<T>): Promise<T> {
  const declared = request.headers.get("content-length");
  const large = request.body !== null && !(declared !== null && Number(declared) <= LARGE_BYTES);
  if (!large) return work();
  await takeTurn();
  try {
    return await work();
  } finally {
    giveTurn();
  }
}

async function collect(stream: ReadableStream<Uint8Array>, most: number): Promise<Buffer> {
  const chunks: Uint8Array[] = [];
  let size = 0;
  const reader = stream.getReader();
  const slow = setTimeout(() => void reader.cancel("too slow").catch(() => {}), SLOWEST_MS);
  try {
    for (let part = await reader.read(); !part.done; part = await reader.read()) {
      size += part.value.byteLength;
      if (size > most) throw tooLarge(most);
      chunks.push(part.value);
    }
  } finally {
    clearTimeout(slow);
    // What is left stays unread.
    void reader.cancel().catch(() => {});
  }
  return Buffer.concat(chunks, size);
}

/**
 * Reads a JSON body.
 * @param most - bytes taken at most
 * @throws Unreadable
 */
export async function readJson(request: Request, most: number): Promise<unknown> {
  if (Number(request.headers.get("content-length") ?? 0) > most) throw tooLarge(most);
  return parse(request.body ? new TextDecoder("utf-8").decode(await collect(request.body, most)) : "");
}

/** Reads a body as bytes. @throws Unreadable */
export async function readBytes(request: Request, most: number): Promise<Uint8Array> {
  if (Number(request.headers.get("content-length") ?? 0) > most) throw tooLarge(most);
  return request.body ? collect(request.body, most) : new Uint8Array(0);
}

function parse(text: string): unknown {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    throw new Unreadable(400, "bad-json", "This is not valid JSON.");
  }
  checkValue(value);
  return value;
}

/** Walks a value without recursion. @throws Unreadable for what cannot be kept: too deep, or signs that are no text */
function checkValue(value: unknown): void {
  const open: { value: unknown; depth: number }[] = [{ value, depth: 0 }];
  for (let next = open.pop(); next; next = open.pop()) {
    if (typeof next.value === "string") checkText(next.value);
    if (typeof next.value !== "object" || next.value === null) continue;
    if (next.depth >= DEEPEST)
      throw new Unreadable(400, "too-deep", `This JSON is nested more than ${DEEPEST} deep. Nothing of ours is.`);
    for (const [key, inner] of Object.entries(next.value)) {
      checkText(key);
      open.push({ value: inner, depth: next.depth + 1 });
    }
  }
}

const LONE_SURROGATE = /\p{Surrogate}/u;

function checkText(text: string): void {
  if (text.includes("\0"))
    throw new Unreadable(400, "no-text", "The text holds a sign that is no text (U+0000). Take it out and try again.");
  if (LONE_SURROGATE.test(text))
    throw new Unreadable(400, "no-text", "The text holds half a sign (a lone surrogate). Take it out and try again.");
}
