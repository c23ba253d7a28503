// What passes between a board with MicroPython in its thread and whoever gives it time.
import type { LineOut, LinesIn } from "./processor.js";

export type ToPython =
  | { readonly kind: "live"; readonly us: number; readonly lines: LinesIn; readonly bytes: Uint8Array }
  | { readonly kind: "reset" }
  | { readonly kind: "end" };

export interface FromPython {
  readonly outs: ReadonlyMap<string, LineOut>;
  readonly said: Uint8Array;
}

export interface PythonStart {
  readonly interpreter: string;
  readonly prelude: string;
  /** File that keeps what the board's own files hold. */
  readonly memory: string;
  /** Raised when a message is there. */
  readonly flag: SharedArrayBuffer;
}
