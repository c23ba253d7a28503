// What every kind of sensor says of itself: how it is written down, what it needs from a board, what the board reads of
// it, what a mission makes of that, how it senses on simulated physics, and how it is drawn and offered.
import * as z from "zod";
import { finite, partName } from "../../drives/parts.js";
import type { LinearRgb } from "../../field/colours.js";
import type { RandomStream } from "../../math/random.js";
import type { BodyShape } from "../../physics/body.js";
import { TICK_MS } from "../../physics/constants.js";
import type { World } from "../../physics/world.js";
import type { QuantityInfo } from "../../units/quantityInfo.js";
import type { EyeSensor } from "../eye.js";
import type { SensorScene } from "../scene.js";

/** Where it sits, and where it looks. */
export const place = {
  name: partName,
  xM: finite,
  yM: finite,
  zM: finite.default(0.02),
  aimRad: finite.default(0),
};
const placed = z.object(place);
type Placed = z.infer<typeof placed> & { readonly kind: string };

/** What a terminal of a board can be used for. */
export type Ability =
  | "digital"
  | "analog"
  | "pwm"
  | "interrupt"
  | "bus-data"
  | "bus-clock"
  | "motor"
  | "sensor"
  | "servo";

/** One terminal of a device, and what the board's terminal at the other end must be able to do. */
export interface Need {
  readonly terminal: string;
  /** Words for people: "signal of the bumper". */
  readonly label: string;
  readonly needs: readonly Ability[];
  /** A supply between these voltages; null is not a supply. */
  readonly supply: readonly [lowest: number, highest: number] | null;
  readonly ground?: true;
  /** It takes the pack itself. */
  readonly pack?: true;
  /** Level it sends at, V, when it is an output. */
  readonly sendsVolts?: number;
  /** Most it draws from its supply, A. */
  readonly drawsA?: number;
}

export function signal(terminal: string, label: string, needs: readonly Ability[], more: Partial<Need> = {}): Need {
  return { terminal, label, needs, supply: null, ...more };
}

export function power(lowest: number, highest: number, drawsA: number): Need {
  return { terminal: "power", label: "supply", needs: [], supply: [lowest, highest], drawsA };
}

export const GROUND: Need = { terminal: "ground", label: "ground", needs: [], supply: null, ground: true };

/** Terminals of what hangs on the two-wire bus. */
export const ON_BUS: readonly Need[] = [
  signal("data", "data", ["bus-data"]),
  signal("clock", "clock", ["bus-clock"]),
  power(3, 5.5, 0.02),
  GROUND,
];

/** A reading as a mission names it after the sensor's own name, and what it is; without words it has a place but no name. */
export type ReadingRow = readonly [
  words: string,
  is: "truth" | "colour" | "share" | "length" | "angle" | "shaft angle" | "force" | "taps",
];

/** One sensor's line to the board. */
export interface SensorLine {
  readonly values: Float64Array;
  /** It has delivered anything yet. */
  told: boolean;
}

/** What a simulated body lends its sensors. */
export interface SensorBench {
  readonly scene: SensorScene;
  readonly world: World;
  /** For what is chance even where nothing is noisy. */
  readonly chance: RandomStream;
  /** Null in ideal rehearsals. */
  readonly noise: RandomStream | null;
  /** How this run's sensors are off, by name: m beyond the known offset, factor on the threshold, factors on the light. */
  readonly draw: {
    readonly eyeOffsetsM: ReadonlyMap<string, number>;
    readonly nearFactors: ReadonlyMap<string, number>;
    readonly tagGains?: ReadonlyMap<string, LinearRgb>;
  };
  /** Eyes by their name, for drawing what each hears. */
  readonly eyes: Map<string, EyeSensor>;
  /** Buttons that a person holds down. */
  readonly held: ReadonlySet<string>;
  /** Keeps what changes from tick to tick, to come back to. */
  keep<T extends object>(device: T): T;
  angleOf(part: string): number;
  head(servo: string): { readonly angleRad: number; readonly settled: boolean } | null;
  /** The outline of a sensor with a bar, as the world moves it. */
  shapeOf(sensor: string): BodyShape;
}

/** A bar that things push: its face is at its sensor's place, looking along its aim. */
export interface Bar {
  readonly xM: number;
  readonly yM: number;
  readonly zM: number;
  readonly aimRad: number;
  readonly widthM: number;
}

/** A stroke of its drawing: an SVG path in mm, ahead to the right and left up, and how it looks. */
interface SensorStroke {
  readonly path: string;
  readonly look: "beam" | "eye" | "head" | "bumper" | "bracket" | "floorspot" | "gyro" | "gyromark";
}

/** A sensor as the catalogue offers it. */
interface SensorOffer {
  readonly id: string;
  /** First name offered. */
  readonly name: string;
  readonly title: string;
  readonly about: string;
  /** What is not as the schema has it by default. */
  readonly body: object;
}

/** How a board makes readings of what a sensor's line delivers: as `perceive` does, as data for any language. */
export type BoardReads =
  | { readonly how: "delivered"; readonly count: number }
  | { readonly how: "taps" }
  | { readonly how: "distance"; readonly offsetM: number; readonly farM: number }
  | {
      readonly how: "floor";
      readonly spots: number;
      readonly dark: number;
      readonly fully: number;
      readonly crossing: number;
    }
  | {
      readonly how: "plate";
      /** Colours it was taught, in CIE Lab. */
      readonly colours: readonly { readonly index: number; readonly lab: readonly [number, number, number] }[];
    };

export interface SensorKind<S extends Placed = Placed> {
  readonly schema: z.ZodType<S> & z.core.$ZodTypeDiscriminable;
  /** "distance sensor" */
  readonly words: string;
  readonly quantities: readonly QuantityInfo[];
  readonly offers: readonly SensorOffer[];
  /** Volts its own supply must have on a board with sockets. */
  readonly socketVolts: readonly [lowest: number, highest: number];
  terminals(sensor: S): readonly Need[];
  /** Numbers its line delivers, in the order that its file says. */
  slots(sensor: S): number;
  /** Readings of a mission, in the order of their places in a snapshot. */
  readings(sensor: S): readonly ReadingRow[];
  /** Makes them of what the line delivers; null where nothing is to be made. Keeps what it remembers in `kept`. */
  perceive(sensor: S, values: Float64Array, kept: object[]): ((out: Float64Array, base: number) => void) | null;
  /** The same for boards; null where nothing is to be made. */
  boardReads(sensor: S): BoardReads | null;
  /** One sensor on simulated physics, asked once a tick; null where it is read in another way. */
  simulate(sensor: S, line: SensorLine, bench: SensorBench): (() => void) | null;
  bar?(sensor: S): Bar;
  drawing(sensor: S): readonly SensorStroke[];
}

/** Readings that are the line's numbers as they are. */
export function asDelivered(count: number): SensorKind["perceive"] {
  return (_sensor, values) => (out, base) => {
    for (let i = 0; i < count; i += 1) out[base + i] = values[i] as number;
  };
}

export function ticksOf(ms: number): number {
  return Math.max(1, Math.floor(ms / TICK_MS + 0.5));
}

const mm = (metres: number) => Math.floor(metres * 10_000 + 0.5) / 10;

/** A rectangle with round corners, mm. */
export function box(x: number, y: number, width: number, height: number, r: number): string {
  const [w, h] = [width - 2 * r, height - 2 * r];
  const corner = (dx: number, dy: number) => `a${r} ${r} 0 0 1 ${dx} ${dy}`;
  return `M${x + r} ${y}h${w}${corner(r, r)}v${h}${corner(-r, r)}h${-w}${corner(-r, -r)}v${-h}${corner(r, -r)}z`;
}

/** A disc about the middle, mm. */
export function disc(r: number, y = 0): string {
  return `M${-r} ${y}a${r} ${r} 0 1 1 ${2 * r} 0a${r} ${r} 0 1 1 ${-2 * r} 0z`;
}

/** A bar with two brackets behind it. */
export function barStrokes(widthM: number): SensorStroke[] {
  const width = mm(widthM);
  const quarter = width / 4;
  return [
    { path: box(-4, -width / 2, 4, width, Math.min(2, width / 2)), look: "bumper" },
    { path: `M-4 ${-quarter}H-12M-4 ${quarter}H-12`, look: "bracket" },
  ];
}

/** A small case with a mark on it. */
export function caseStrokes(mark: string): SensorStroke[] {
  return [
    { path: box(-7, -7, 14, 14, 3), look: "gyro" },
    { path: mark, look: "gyromark" },
  ];
}
