// Missions for real boards: written, compiled, and held against the rehearsal.
export type { BrainStep, BrainTick, TickBrain } from "./brain.js";
export {
  buildHost,
  type ExportProblem,
  type HostOptions,
  MissingTool,
  runtimeFiles,
  type Written,
  writeCpp,
} from "./cpp.js";
export {
  AGREES,
  cppTarget,
  type Lockstep,
  type LockstepOptions,
  lockstep,
  pythonTarget,
  type Target,
} from "./lockstep.js";
export { pythonRuntime, writePython } from "./python.js";
