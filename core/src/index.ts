// The core of Giddy Pebble: pure computation, the same in browsers, workers, Node and the command line.

/** Part of every trial: two runs with the same inputs and core version are equal bit for bit. */
export const CORE_VERSION = "0.2.0";

export * from "./brain/index.js";
export * from "./cairn/index.js";
export * from "./calibrate/index.js";
export * from "./calibrate/procedures/index.js";
export * from "./control/index.js";
export * from "./documents/compareTexts.js";
export * from "./documents/read.js";
export * from "./field/index.js";
export * from "./field/svg/index.js";
export * from "./formats/schemas.js";
export * from "./geometry/index.js";
export * from "./helpers/index.js";
export * from "./insight/index.js";
export * from "./link/index.js";
export * from "./matchday/index.js";
export * from "./math/index.js";
export * from "./notebook/index.js";
export * from "./physics/index.js";
export * from "./program/index.js";
export * from "./rehearse/index.js";
export * from "./remote/index.js";
export * from "./robot/index.js";
export * from "./run/index.js";
export * from "./sensors/index.js";
export * from "./simulate/index.js";
export * from "./trials/index.js";
export * from "./units/index.js";
export * from "./words/glossary.js";
export * from "./words/language.js";
