export * from "./body.js";
export * from "./disturbance.js";
export * from "./fromRobot.js";
export { HEAD_EVENTS } from "./headWatch.js";
export * from "./scatter.js";
export type { Touch } from "./touches.js";
