export * from "./drive.js";
export * from "./driveModel.js";
export * from "./motions.js";
export * from "./profile.js";
export * from "./timed.js";
