export * from "./csv.js";
export * from "./differences.js";
export * from "./packing.js";
export * from "./recordedHands.js";
export * from "./summary.js";
export * from "./taped.js";
export * from "./trace.js";
export * from "./typedTape.js";
