export * from "./headLooks.js";
export * from "./lineTuner.js";
export * from "./lineWay.js";
