export * from "./battery.js";
export * from "./constants.js";
export * from "./freeMotor.js";
export * from "./fromRobot.js";
export * from "./motor.js";
export * from "./parts.js";
export * from "./wheelLoads.js";
export * from "./world.js";
