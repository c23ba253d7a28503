export * from "./dimension.js";
export * from "./quantity.js";
export * from "./ranges.js";
export * from "./units.js";
