export * from "./memory.js";
export * from "./prepare.js";
export * from "./probe.js";
export * from "./rehearsal.js";
export * from "./replan.js";
export * from "./study.js";
