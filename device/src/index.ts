export * from "./host/clock.js";
export * from "./host/robotHost.js";
export * from "./host/server.js";
export * from "./host/shelf.js";
export * from "./standin/calibrating.js";
export * from "./standin/measuring.js";
export * from "./standin/standIn.js";
export * from "./standin/truth.js";
