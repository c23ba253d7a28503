export * from "./observer.js";
export * from "./run.js";
