// What runs a board's program on this computer, seen from its lines: an emulated chip, or an interpreter.

/** What comes to the lines in one tick of 10 ms. Pins by their names. */
export interface LinesIn {
  /** Levels from outside. */
  readonly levels: ReadonlyMap<string, boolean>;
  /** Voltages, V. */
  readonly volts: ReadonlyMap<string, number>;
  /** Encoders: how many steps they turn within the tick, by their two pins. */
  readonly turns: readonly { readonly pins: readonly [string, string]; readonly steps: number }[];
  /** Distance sensors: how long their echo is, us, by trigger and echo; 0 is none. */
  readonly echoes: readonly { readonly pins: readonly [string, string]; readonly us: number }[];
  /** Of the gyro on the bus, 16 bits with a sign; of the colour sensor, 16 bits each. */
  readonly gyroRaw: number;
  readonly light: readonly [number, number, number];
}

/** How a line is driven: which share of the time it is high, and how long its last pulse was, us. */
export interface LineOut {
  readonly out: boolean;
  readonly share: number;
  readonly pulseUs: number;
}

export interface Processor {
  /** Bytes on its serial line. */
  receive(bytes: Uint8Array): void;
  /** Lives through a tick of 10 ms. @param looked - pins to be told of */
  live(into: LinesIn, looked: readonly string[]): Promise<ReadonlyMap<string, LineOut>>;
  reset(): Promise<void>;
  /** What it says on its serial line since it was asked last. */
  said(): Uint8Array;
  /** Switches it off. @returns when it has ended, and what it holds is kept */
  close(): Promise<void>;
}
