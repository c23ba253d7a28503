export * from "./colours.js";
export * from "./edges.js";
export * from "./raster.js";
export * from "./read.js";
export * from "./schema.js";
export * from "./zones.js";
