export * from "./base64.js";
export * from "./exponential.js";
export * from "./hash.js";
export * from "./random.js";
export * from "./trig.js";
