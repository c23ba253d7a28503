// A program as data: everything a robot needs to know of a mission. It can be printed, compared, sent, stored by its
// hash, and written out for a board. Instructions run one after another; places in them are numbers from 0.
import * as z from "zod";
import { STICK_MODES } from "../remote/mapping.js";
import { codeSchema, wordingSchema } from "./code.js";

export const PROGRAM_FORMAT = "giddy-pebble/program";
export const PROGRAM_VERSION = 1;

const index = z.number().int().nonnegative();
/** A place among the instructions. */
const place = index;
const maybe = codeSchema.nullable();

const conditionSchema = z.strictObject({
  code: codeSchema,
  /** Counters to set to -1 when it begins. */
  held: z.array(index),
  /** Signals that it has heard once it comes true. */
  heard: z.array(index),
  /** Readings it looks at. */
  looksAt: z.array(index),
  /** Only a signal can make it come true. */
  signalOnly: z.boolean(),
  /** As written. */
  text: z.string(),
});
export type ConditionCode = z.infer<typeof conditionSchema>;

/** What a step is called in a record. */
const named = { step: z.string(), text: z.string(), line: z.number().int().positive() };

const endings = z.strictObject({
  forTime: maybe,
  until: conditionSchema.nullable(),
  limit: maybe,
  limitBy: z.enum(["time", "travel", "turn"]).nullable(),
  ending: z.enum(["stop", "coast", "keep"]),
});
export type EndingsCode = z.infer<typeof endings>;

/** Speed and ramp of a motion; null for the robot's usual ones. */
const options = z.strictObject({
  how: z.enum(["straight", "turning", "sliding"]),
  at: maybe,
  ramp: maybe,
  using: maybe,
  keep: z.boolean(),
});
export type OptionsCode = z.infer<typeof options>;

const side = z.union([z.literal(1), z.literal(-1)]);
const point = z.strictObject({ x: codeSchema, y: codeSchema });

const motion = z.discriminatedUnion("is", [
  z.strictObject({ is: z.literal("straight"), length: maybe, back: z.boolean(), options }),
  z.strictObject({ is: z.literal("slide"), length: maybe, side, options }),
  z.strictObject({
    is: z.literal("places"),
    places: z.array(point).min(1),
    facing: maybe,
    back: z.boolean(),
    look: maybe,
    options,
  }),
  z.strictObject({
    is: z.literal("turn"),
    angle: maybe,
    side,
    about: z.enum(["left", "right"]).nullable(),
    byGyro: z.boolean(),
    options,
  }),
  z.strictObject({ is: z.literal("face"), heading: codeSchema, byGyro: z.boolean(), options }),
  z.strictObject({ is: z.literal("arc"), angle: maybe, side, radius: codeSchema, back: z.boolean(), options }),
  z.strictObject({ is: z.literal("roll"), speed: codeSchema, rate: maybe, ramp: maybe }),
  z.strictObject({ is: z.literal("wheels"), left: codeSchema, right: codeSchema, ramp: maybe }),
  z.strictObject({ is: z.literal("power"), left: codeSchema, right: codeSchema }),
  z.strictObject({ is: z.literal("press"), back: z.boolean(), using: maybe }),
  z.strictObject({
    is: z.literal("follow line"),
    /** Readings of the lights it looks at, left first, with their places across the robot, m. */
    slots: z.array(index).min(1),
    offsetsM: z.array(z.number()).min(1),
    aheadM: z.number(),
    spotM: z.number(),
    dark: z.number(),
    /** 1: dark lies to the right of the edge, -1: to the left, 0: follows the centre. */
    edge: z.union([side, z.literal(0)]),
    gain: maybe,
    damp: maybe,
    bridge: maybe,
    crossings: z.enum(["straight", "left", "right", "stop"]),
    options,
  }),
  z.strictObject({
    is: z.literal("follow wall"),
    slot: index,
    side: z.enum(["left", "right"]),
    aheadM: z.number(),
    besideM: z.number(),
    noseM: z.number(),
    corners: z.enum(["turn", "stop"]).nullable(),
    /** A reading ahead, with the distance at which it stands before something; of a bumper, 0. */
    ahead: z.strictObject({ slot: index, nearM: z.number() }).nullable(),
    away: codeSchema,
    options,
  }),
]);
export type MotionCode = z.infer<typeof motion>;

/** Where a value is put: into one of the mission's, or of a routine that runs. */
const store = z.union([z.strictObject({ global: index }), z.strictObject({ routine: index, local: index })]);
export type Store = z.infer<typeof store>;

/** A routine with what it is given. */
const called = { entry: place, routine: index, size: index, args: z.array(codeSchema) };

const arm = z.strictObject({
  /** What fits: a comparison with the subject, or any of some values and ranges. */
  compare: z.strictObject({ operator: z.enum(["<", ">", "<=", ">="]), value: codeSchema }).nullable(),
  values: z.array(z.strictObject({ from: codeSchema, to: maybe })),
  to: place,
});

const mode = z.enum(["brake", "coast"]);

const instructionSchema = z.discriminatedUnion("op", [
  // Where it goes on
  z.strictObject({ op: z.literal("jump"), to: place }),
  /** Goes on there in the next tick. */
  z.strictObject({ op: z.literal("again"), to: place }),
  z.strictObject({ op: z.literal("end") }),
  z.strictObject({ op: z.literal("idle") }),
  z.strictObject({ op: z.literal("if"), condition: conditionSchema, otherwise: place }),
  z.strictObject({ op: z.literal("choose"), subject: codeSchema, arms: z.array(arm), otherwise: place }),
  z.strictObject({ op: z.literal("call"), ...called }),
  z.strictObject({ op: z.literal("give"), value: codeSchema }),
  z.strictObject({
    op: z.literal("repeat"),
    times: maybe,
    left: index,
    passes: index,
    condition: conditionSchema.nullable(),
  }),
  z.strictObject({
    op: z.literal("next pass"),
    left: index,
    passes: index,
    condition: conditionSchema.nullable(),
    /** Goes on while the condition is true, or until it is. */
    how: z.enum(["while", "until"]),
    each: z.strictObject({ list: index, store }).nullable(),
    count: store.nullable(),
    after: place,
  }),
  z.strictObject({ op: z.literal("every"), ...named, until: conditionSchema.nullable(), limit: maybe, counter: index }),
  z.strictObject({
    op: z.literal("next beat"),
    period: codeSchema,
    until: conditionSchema.nullable(),
    counter: index,
    exit: place,
  }),
  z.strictObject({ op: z.literal("beats end") }),
  z.strictObject({
    op: z.literal("leave"),
    /** Guards that stay open. */
    guards: index,
    kind: z.enum(["repeat", "every", "during"]),
    /** A pass that ends gives up the tick. */
    pass: z.boolean(),
    to: place,
  }),
  z.strictObject({
    op: z.literal("together"),
    entries: z.array(place).min(1),
    routine: index.nullable(),
    untilOne: z.boolean(),
    after: place,
  }),
  z.strictObject({
    op: z.literal("guard"),
    step: z.string(),
    handlers: z.array(z.strictObject({ condition: conditionSchema, entry: place })),
  }),
  z.strictObject({ op: z.literal("guard ends"), depth: index, to: place }),
  z.strictObject({ op: z.literal("resume"), depth: index, skip: z.boolean() }),
  // Steps that act at once
  z.strictObject({ op: z.literal("start"), ...named, ...called }),
  z.strictObject({ op: z.literal("stop routine"), ...named, routine: index }),
  z.strictObject({ op: z.literal("set"), ...named, store, value: codeSchema }),
  z.strictObject({ op: z.literal("add"), ...named, list: index, value: codeSchema }),
  z.strictObject({ op: z.literal("put"), ...named, list: index, index: codeSchema, value: codeSchema }),
  z.strictObject({ op: z.literal("clear"), ...named, list: index }),
  z.strictObject({ op: z.literal("roll on"), ...named, motion }),
  z.strictObject({ op: z.literal("motor on"), ...named, motor: z.string(), duty: codeSchema }),
  z.strictObject({
    op: z.literal("move on"),
    ...named,
    part: z.string(),
    how: z.enum(["to", "by"]).nullable(),
    angle: maybe,
    at: maybe,
    using: maybe,
  }),
  z.strictObject({ op: z.literal("stop drive"), ...named, mode }),
  z.strictObject({ op: z.literal("stop motor"), ...named, mode, motor: z.string() }),
  z.strictObject({ op: z.literal("steer"), ...named, angle: codeSchema }),
  z.strictObject({ op: z.literal("note"), ...named, name: z.string(), value: codeSchema }),
  z.strictObject({
    op: z.literal("show"),
    ...named,
    /** Each with the words before it; texts have no wording. */
    values: z.array(z.strictObject({ label: z.string(), value: codeSchema, words: wordingSchema.nullable() })),
  }),
  z.strictObject({ op: z.literal("light"), ...named, share: codeSchema }),
  z.strictObject({ op: z.literal("beep"), ...named, pitch: maybe, duration: maybe }),
  z.strictObject({ op: z.literal("reset"), ...named, what: z.string() }),
  z.strictObject({ op: z.literal("send"), ...named, signal: index }),
  z.strictObject({ op: z.literal("finish"), ...named }),
  // Steps that take time
  z.strictObject({
    op: z.literal("wait"),
    ...named,
    duration: maybe,
    atMost: maybe,
    until: conditionSchema.nullable(),
    limit: maybe,
  }),
  z.strictObject({ op: z.literal("drive"), ...named, motion, endings }),
  z.strictObject({ op: z.literal("motor"), ...named, motor: z.string(), duty: codeSchema, endings }),
  z.strictObject({
    op: z.literal("move"),
    ...named,
    part: z.string(),
    how: z.enum(["to", "by"]).nullable(),
    angle: maybe,
    at: maybe,
    using: maybe,
    endings,
  }),
  z.strictObject({
    op: z.literal("home"),
    ...named,
    part: z.string(),
    toward: z.enum(["low", "high"]),
    using: maybe,
    endings,
  }),
  z.strictObject({ op: z.literal("aim"), ...named, head: z.string(), angle: codeSchema, endings }),
  z.strictObject({
    op: z.literal("scan"),
    ...named,
    head: z.string(),
    from: codeSchema,
    to: codeSchema,
    looks: codeSchema,
    endings,
  }),
  z.strictObject({ op: z.literal("hand over"), ...named, endings }),
]);
export type Instruction = z.infer<typeof instructionSchema>;
export type InstructionOf<Op extends Instruction["op"]> = Extract<Instruction, { op: Op }>;

const sticks = z.strictObject({
  mode: z.enum(STICK_MODES),
  at: maybe,
  turning: maybe,
  dead: maybe,
  curve: maybe,
  ramp: maybe,
  switching: maybe,
});
export type SticksCode = z.infer<typeof sticks>;

const binding = z.strictObject({
  how: z.enum(["hold", "toggle", "tap"]),
  button: index,
  ceiling: maybe,
  entry: place.nullable(),
  /** It is a routine, which ends by itself. */
  routine: z.boolean(),
  ending: z.union([z.enum(["stop", "keep"]), place]),
  /** What it can move. */
  moves: z.array(z.string()),
});
export type BindingCode = z.infer<typeof binding>;

const dial = z.strictObject({ level: index, part: z.string(), from: codeSchema, to: codeSchema });

const remoteSchema = z.strictObject({
  sticks: sticks.nullable(),
  bindings: z.array(binding),
  dials: z.array(dial),
  /** Greatest steering angle of a car type, rad; null for two sides. */
  steerRad: z.number().nullable(),
});
export type RemoteCode = z.infer<typeof remoteSchema>;

/** What was found instead, where a part of the goal failed. */
const foundSchema = z.discriminatedUnion("is", [
  z.strictObject({ is: z.literal("nothing") }),
  z.strictObject({ is: z.literal("touched"), but: z.array(z.string()) }),
  z.strictObject({ is: z.literal("outside"), zone: z.string() }),
  z.strictObject({ is: z.literal("value"), value: codeSchema, words: wordingSchema.nullable() }),
  z.strictObject({
    is: z.literal("off"),
    left: codeSchema,
    right: codeSchema,
    unit: z.string(),
    scale: z.number(),
    words: z.string(),
  }),
]);
export type FoundCode = z.infer<typeof foundSchema>;

const goalSchema = z.strictObject({
  code: codeSchema,
  text: z.string(),
  parts: z.array(z.strictObject({ text: z.string(), code: codeSchema, found: foundSchema })),
});
export type GoalCode = z.infer<typeof goalSchema>;

export const programSchema = z.strictObject({
  format: z.literal(PROGRAM_FORMAT),
  version: z.literal(PROGRAM_VERSION),
  /** Place where a run begins, by its name on the field; null for the field's first. */
  begin: z.string().nullable(),
  instructions: z.array(instructionSchema).min(1).max(100_000),
  /** Where the mission begins. */
  start: place,
  /** Where a started routine ends. */
  endOfTask: place,
  /** Names of the mission's values, by their place. */
  globals: z.array(z.string()).max(10_000),
  /** Each with the names of its values. */
  routines: z.array(z.strictObject({ name: z.string(), values: z.array(z.string()).max(10_000) })).max(10_000),
  counters: z.number().int().min(0).max(100_000),
  /** How many readings the robot has that it was made for. */
  readings: z.number().int().min(0).max(10_000),
  signals: z.array(z.string()),
  /** The mission's values before it starts. */
  sets: z.array(z.strictObject({ global: index, value: codeSchema })),
  /** Values kept from one run to the next. */
  remembered: z.array(z.strictObject({ name: z.string(), global: index, kind: z.string(), words: wordingSchema })),
  lists: z.array(
    z.strictObject({ name: z.string(), most: z.number().int(), rolling: z.boolean(), table: z.boolean() }),
  ),
  goal: goalSchema.nullable(),
  /** What a driver's buttons do; null where no step hands over. */
  remote: remoteSchema.nullable(),
});
export type Program = z.infer<typeof programSchema>;
