// A serial line as whoever writes a program through it needs it: bytes out, bytes in within a time, and a reset.

export interface ByteLine {
  write(bytes: Uint8Array): Promise<void>;
  /** @returns exactly so many bytes; null when fewer came within the time, ms */
  read(count: number, withinMs: number): Promise<Uint8Array | null>;
  /** Forgets what came and was not read. */
  drain(): void;
  /** Pulls the board's reset line. */
  reset(): Promise<void>;
}

export type Upload = { readonly ok: true } | { readonly ok: false; readonly why: string };
/** Told how much is done, 0..1; it may say that it is enough. */
export interface UploadWatch {
  progress(share: number, words: "writing" | "checking"): void;
  readonly cancelled: boolean;
}

export const CANCELLED: Upload = {
  ok: false,
  why: "It was cancelled. The board holds only a part: put the mission on it again.",
};
