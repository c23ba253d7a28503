export * from "./apply.js";
export * from "./odometry.js";
export * from "./procedure.js";
export * from "./signals.js";
export * from "./stage.js";
export * from "./statistics.js";
export * from "./units.js";
export * from "./worth.js";
