export * from "./rehearsal.js";
export * from "./scatter.js";
export * from "./study.js";
export * from "./machine.js";
