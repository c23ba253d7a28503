export * from "./drive.js";
export * from "./driveModel.js";
export * from "./follow.js";
export * from "./followLine.js";
export * from "./motions.js";
export * from "./partMotion.js";
export * from "./profile.js";
export * from "./timed.js";
