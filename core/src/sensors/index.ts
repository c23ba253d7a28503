export * from "./encoder.js";
export * from "./gyro.js";
