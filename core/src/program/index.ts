export { type Code, codeFault } from "./code.js";
export { USUAL_CEILING } from "./handOver.js";
export { type Instruction, type Program, programSchema } from "./instructions.js";
export { failedWords, type GoalPart, type LinkedProgram, linkProgram } from "./link.js";
export { lowerMission } from "./lower.js";
export { printProgram, type ReadingNames } from "./print.js";
export { type ProgramFault, type ProgramRead, readProgram } from "./read.js";
export type { EndedBy, StepRecord } from "./task.js";
