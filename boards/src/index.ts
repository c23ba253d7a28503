// Missions for real boards: written, compiled, and held against the rehearsal.
export {
  buildHost,
  type ExportProblem,
  MissingTool,
  runtimeFiles,
  type Written,
  writeCpp,
  writeFolder,
} from "./cpp.js";
export {
  AGREES,
  cppTarget,
  type Lockstep,
  type LockstepOptions,
  lockstep,
  type Target,
  type TickBrain,
} from "./lockstep.js";
