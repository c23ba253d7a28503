export * from "./figures.js";
export * from "./firstRoll.js";
export * from "./gearBench.js";
