export * from "./order.js";
export * from "./round.js";
