export * from "./apply.js";
export * from "./odometry.js";
export * from "./procedure.js";
export * from "./procedures.js";
export * from "./rest.js";
export * from "./stage.js";
export * from "./statistics.js";
export * from "./units.js";
