export { HEAD_EVENTS } from "./headWatch.js";
export * from "./machine.js";
export * from "./memory.js";
export * from "./probe.js";
export * from "./rehearsal.js";
export * from "./scatter.js";
export * from "./study.js";
export * from "./touches.js";
