export * from "./csv.js";
export * from "./packing.js";
export * from "./trace.js";
