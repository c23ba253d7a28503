// Missions for real boards: written, compiled, and held against the rehearsal.
export { buildAvrBoard, buildBootloader, buildEmulator } from "./avr.js";
export type { BrainStep, BrainTick, TickBrain } from "./brain.js";
export { compileExport, MissingTool } from "./cpp.js";
export { type Exported, exportMission, TARGETS, type TargetName } from "./export.js";
export {
  AGREES,
  avrTarget,
  cppTarget,
  type Lockstep,
  type LockstepOptions,
  lockstep,
  pythonTarget,
  type Target,
} from "./lockstep.js";
export { pythonLines } from "./python.js";
