export * from "./brain.js";
export * from "./raw.js";
