export * from "./polygon.js";
export * from "./pose.js";
