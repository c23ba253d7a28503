export * from "./frames.js";
export * from "./limits.js";
export * from "./traceFrame.js";
