// A byte line made of what is heard and what can be said: bytes wait until whoever writes a program asks for them.
import type { ByteLine } from "./byteLine.js";

interface LineEnds {
  write(bytes: Uint8Array): Promise<void>;
  /** Pulls the board's reset line. */
  reset(): Promise<void>;
  /** Calls once after so many ms. @returns what calls it off */
  after(ms: number, call: () => void): () => void;
}

export class HeardLine implements ByteLine {
  private got: number[] = [];
  private wake: () => void = () => {};
  private ended = false;

  constructor(private readonly ends: LineEnds) {}

  take(bytes: Uint8Array): void {
    for (const byte of bytes) this.got.push(byte);
    this.wake();
  }

  /** The line is gone: who waits for bytes waits no longer. */
  end(): void {
    this.ended = true;
    this.wake();
  }

  write(bytes: Uint8Array): Promise<void> {
    return this.ends.write(bytes);
  }

  reset(): Promise<void> {
    return this.ends.reset();
  }

  drain(): void {
    this.got = [];
  }

  async read(count: number, withinMs: number): Promise<Uint8Array | null> {
    let late = false;
    const callOff = this.ends.after(withinMs, () => {
      late = true;
      this.wake();
    });
    while (this.got.length < count && !this.ended && !late)
      await new Promise<void>((resolve) => {
        this.wake = resolve;
      });
    callOff();
    return this.got.length < count ? null : Uint8Array.from(this.got.splice(0, count));
  }
}
