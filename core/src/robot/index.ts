export * from "./inForce.js";
export * from "./known.js";
export * from "./read.js";
export * from "./schema.js";
