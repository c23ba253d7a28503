export * from "./fit.js";
export * from "./gates.js";
export * from "./handMotion.js";
export * from "./handset.js";
export * from "./mapping.js";
