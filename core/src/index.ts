// The core of Giddy Pebble: pure computation, the same in browsers, workers, Node and the command line.

/** Part of every trial: two runs with the same inputs and core version are equal bit for bit. */
export const CORE_VERSION = "0.2.0";

export type { Remembered, RememberedValue } from "./brain/brain.js";
export { type Commands, type RawSenses, restingCommands } from "./brain/raw.js";
export { checkMission, wordProblems } from "./cairn/check.js";
export type { Collections } from "./cairn/collections.js";
export { type Completion, type CompletionNames, completeStep } from "./cairn/complete.js";
export {
  applyChange,
  deleteLine,
  deleteLines,
  insertStep,
  insertTopLine,
  insertValue,
  isTopLine,
  moveStep,
  neighbour,
  type Place,
  placeAtLine,
  rewriteStep,
  setGoal,
  setHeader,
  type TextChange,
} from "./cairn/edits.js";
export { formatMission } from "./cairn/format.js";
export { readingHelp, WORD_HELP } from "./cairn/help.js";
export { lexLines } from "./cairn/lexer.js";
export { LONGEST_TEXT, parseMission } from "./cairn/parser.js";
export { placesOfPath, takePlace } from "./cairn/placeEdits.js";
export {
  faultyDocument,
  noRobotAtAll,
  oddDocument,
  type Problem,
  tooLarge,
  unknownDocument,
} from "./cairn/problems.js";
export { readingsOf } from "./cairn/readings.js";
export { CAIRN_REFERENCE, type ReferenceEntry } from "./cairn/reference.js";
export { addRemoteLine, driveLine, drivenByItself, makeDriven, setStick, setStickMode } from "./cairn/remoteEdits.js";
export { linePieces, missionRows, openingComment, type Piece, type Row } from "./cairn/rows.js";
export {
  amountOf,
  commentStep,
  copySteps,
  deleteSteps,
  disableSteps,
  duplicateSteps,
  enableSteps,
  indentSteps,
  inlineValue,
  isSwitchedOff,
  makeRoutine,
  nameNumber,
  outdentSteps,
  pasteSteps,
  placesOf,
  smallestChange,
  wrapSteps,
} from "./cairn/stepEdits.js";
export { walk } from "./cairn/symbols.js";
export { bodiesOf, headerValue, type Mission, type Statement, statementsOf } from "./cairn/tree.js";
export { applyEstimate, doubtOf, measuredOf, rowOfRun } from "./calibrate/apply.js";
export {
  type Chart,
  type ChartSeries,
  type Column,
  defaultSettings,
  type Estimate,
  type Measured,
  type Procedure,
  type Settings,
  type TableRow,
} from "./calibrate/procedure.js";
export { PROCEDURES, procedureOf } from "./calibrate/procedures/all.js";
export { rowPlan, STAGE_BEGIN, stageField } from "./calibrate/stage.js";
export { type Worth, worthOnMission } from "./calibrate/worth.js";
export { DriveControl } from "./control/drive.js";
export { driveModel } from "./control/driveModel.js";
export type { Motion } from "./control/motions.js";
export { compareTexts } from "./documents/compareTexts.js";
export type { DocumentReading } from "./documents/read.js";
export { DRIVE_KINDS, type Drive, driveKind } from "./drives/kinds.js";
export { wheelOutline } from "./drives/outline.js";
export type { Stage, Wheel } from "./drives/parts.js";
export { leadWheel } from "./drives/train.js";
export { avrPins } from "./emit/avrPins.js";
export { type BoardRobot, boardRobot } from "./emit/boardRobot.js";
export { cppMission } from "./emit/cppMission.js";
export { cppRobotHeader, cppRobotParts } from "./emit/cppRobot.js";
export type { BoardStep } from "./emit/mission.js";
export { pythonMission } from "./emit/pythonMission.js";
export { pythonRobot } from "./emit/pythonRobot.js";
export { boardWatched, cppUses, type LinkRoom } from "./emit/uses.js";
export { boardLines, cppWiring, type DealtPins, pythonPins, steeringServo, wiringWords } from "./emit/wiring.js";
export { pythonText, quoted } from "./emit/words.js";
export { checkField, type FieldProblem, mendField, problemPlace } from "./field/check.js";
export { COLOUR_NAMES, linearRgb, nameColour, plateHex } from "./field/colours.js";
export { compareFields } from "./field/compare.js";
export { smoothNodes } from "./field/curves.js";
export { rimOutline, solidFaces } from "./field/edges.js";
export {
  ALIGNMENTS,
  type Alignment,
  addThing,
  alignThings,
  type Clip,
  changeThing,
  copyThings,
  distributeThings,
  duplicateThings,
  freeThingName,
  mirrorThings,
  moveThings,
  pasteThings,
  removeThings,
  reorderThings,
  turnThings,
} from "./field/edits.js";
export { type Handle, handlesOf, moveHandle, thingsAt, thingsWithin } from "./field/handles.js";
export { homographyOf, mapPoint } from "./field/homography.js";
export { cornersFromLength, MOST_CELLS, matTrouble, straighten } from "./field/mat.js";
export { lineMeaning } from "./field/meaning.js";
export { openField } from "./field/open.js";
export {
  fieldSha,
  fittingPng,
  pictureText,
  pngSize,
  readPictureImage,
  unpackPicture,
  writePicturePng,
} from "./field/picture.js";
export { CELL_M, FloorRaster } from "./field/raster.js";
export { openFloor, readField } from "./field/read.js";
export {
  type BeginPlace,
  type Field,
  type FieldMark,
  type FieldShape,
  fieldSchema,
  PUT_DOWN,
  type StrokeMark,
} from "./field/schema.js";
export { type Magnets, magnetsOf, snapOnField } from "./field/snap.js";
export { findStart, makeField, READY_STARTS, startNumbers } from "./field/starts.js";
export { lengthOf, strokePoints, strokeRuns } from "./field/strokes.js";
export { exportSvg } from "./field/svg/export.js";
export { importSvg, reflectanceOf, SVG_KINDS, type SvgKind, type SvgReading } from "./field/svg/import.js";
export { fieldSketch } from "./field/svg/sketch.js";
export {
  allRefs,
  boundsOf,
  boundsOfRefs,
  middleOf,
  moveThing,
  outlineOf,
  refOf,
  shiftBy,
  splitRef,
  THING_WORDS,
  type Thing,
  type ThingList,
  type ThingRef,
  thingName,
  thingOf,
} from "./field/things.js";
export { tidyNumbers } from "./field/tidy.js";
export { documentSchemas } from "./formats/schemas.js";
export { composePoses, inversePose, type Point, type Pose, wrapAngle } from "./geometry/pose.js";
export { bearingWords, eyeBlind, type HeadLook, headLooks } from "./helpers/headLooks.js";
export {
  bestCell,
  type LineCell,
  type LineRun,
  type LineSetting,
  lineCell,
  lineGrid,
  lineRunSchema,
  lineSetting,
  tuneRun,
  withLineCode,
  withLineSetting,
} from "./helpers/lineTuner.js";
export {
  aheadOfLine,
  type FollowedLine,
  type LineStep,
  type LineWay,
  lineFigures,
  lineSteps,
  lineWays,
} from "./helpers/lineWay.js";
export { type Figure, robotFigures, type SupportLoad, supportLoads } from "./insight/figures.js";
export {
  type Answer,
  applyAnswers,
  type BenchRobot,
  benchRobot,
  benchWheels,
  type NudgeSeen,
  nudge,
} from "./insight/firstRoll.js";
export { type GearChoice, gearChoice } from "./insight/gearBench.js";
export {
  type FrameOf,
  type FromRobot,
  fromRobotSchema,
  type ProgramPackage,
  packageSchema,
  readFrame,
  robotListSchema,
  type ShelfEntry,
  type ToRobot,
  toRobotSchema,
} from "./link/frames.js";
export {
  BOARD_PROTOCOL,
  BUILD_AGAIN,
  HALTED,
  LINK_PROTOCOL,
  MOST_FRAME_BYTES,
  MOST_FRAMES_PER_SEC,
  MOST_LINKS,
  MOST_PACKAGE_BYTES,
  PART_CHARS,
  READINGS_HZ,
  SERIAL_BAUD,
  SHELF_ROOM,
  TRACE_ROWS,
  WATCHDOG_MS,
} from "./link/limits.js";
export {
  dealtPinsSchema,
  type FromBench,
  fieldPieces,
  fromBenchSchema,
  type ToBench,
  toBenchSchema,
} from "./link/serial/benchFrames.js";
export {
  BOARD_ENDS,
  BOARD_WHYS,
  type BoardOrder,
  type BoardWord,
  readBoardWord,
  writeBoardOrder,
} from "./link/serial/boardFrames.js";
export { BoardLink, type BoardPackage } from "./link/serial/boardLink.js";
export { type BoardManifest, boardManifestSchema } from "./link/serial/boardManifest.js";
export { SerialReader } from "./link/serial/framing.js";
export { readTraceRows, TraceAssembly, writeTraceRows } from "./link/traceFrame.js";
export type { ByteLine, Upload, UploadWatch } from "./link/upload/byteLine.js";
export { HeardLine } from "./link/upload/heardLine.js";
export { boardWriter } from "./link/upload/writer.js";
export { bestOrder, EXACT_UP_TO } from "./matchday/order.js";
export { expectedPoints, playRounds } from "./matchday/round.js";
export { fromBase64 } from "./math/base64.js";
export { exp } from "./math/exponential.js";
export { mixSeed, type RandomStream, randomStream } from "./math/random.js";
export { atan2, cos, PI, sin } from "./math/trig.js";
export { decisionsPage, type MissionDecisions, type RobotDecisions } from "./notebook/decisions.js";
export { ratesDrawing, type VersionRate } from "./notebook/drawings.js";
export { notebookHtml, notebookMarkdown, svgAddress, type WholePage } from "./notebook/out.js";
export {
  calibrationsPage,
  changedSince,
  fieldPage,
  type ListedVersion,
  matchPage,
  missionPage,
  type PageDocument,
  pitPage,
  robotPage,
  timelinePage,
  trialsPage,
} from "./notebook/pages.js";
export { SOURCE_WORDS } from "./notebook/pieces.js";
export { runPage } from "./notebook/runPage.js";
export {
  type MadeOf,
  NOTEBOOK_FORMAT,
  type Notebook,
  type NotebookPage,
  openNotebook,
  type PageBlock,
  type PageSource,
  type PracticeRound,
  type SheetEntry,
} from "./notebook/schema.js";
export { GRAVITY, TICK_MS, TICK_SEC } from "./physics/constants.js";
export { AMBIENT_C } from "./physics/thermal.js";
export { World } from "./physics/world.js";
export { type Program, programSchema } from "./program/instructions.js";
export { lowerMission } from "./program/lower.js";
export { printProgram } from "./program/print.js";
export { readProgram } from "./program/read.js";
export { rememberedSchema, toRemember } from "./rehearse/memory.js";
export {
  beginOf,
  type PlacedProblem,
  type PreparedMission,
  placeProblem,
  placeProblems,
  prepareMission,
  type Runnable,
  runnable,
} from "./rehearse/prepare.js";
export { Probe, type ProbeEye, type ProbeReading, type ProbeResult } from "./rehearse/probe.js";
export { Rehearsal, type RunOptions, rehearse } from "./rehearse/rehearsal.js";
export { Replan } from "./rehearse/replan.js";
export {
  type Blame,
  digestRun,
  type Help,
  histogram,
  type RunDigest,
  rankHelps,
  runDigestSchema,
  runSeed,
  type StepScatter,
  type StudySummary,
  studySummarySchema,
  summariseStudy,
  wilson95,
} from "./rehearse/study.js";
export { type FitTolerance, type FittedDrive, fitSteps, USUAL_TOLERANCE } from "./remote/fit.js";
export { LapTimer, lapFigures } from "./remote/gates.js";
export { BUTTONS, HANDSET_AT_REST, type Handset, tidy } from "./remote/handset.js";
export {
  mapSticks,
  STICK_MODES,
  type StickMode,
  type StickShape,
  shaped,
  switched,
  USUAL_SHAPE,
} from "./remote/mapping.js";
export { BOARDS, type BoardProfile, type BoardTerminal, boardProfile } from "./robot/boards.js";
export { currentBudget, packVolts } from "./robot/budget.js";
export { addPart, CATALOGUE, type CatalogueList, emptyRobot, removePart, withBoard } from "./robot/catalogue.js";
export { checkRobot, type RobotProblem } from "./robot/check.js";
export { compareRobots } from "./robot/compare.js";
export {
  addStage,
  hasPlace,
  mirrorName,
  movePart,
  renamePart,
  setAttachmentKind,
  setDriveKind,
  setPartValue,
  setStages,
  setWire,
  sizeChassis,
  snapPlace,
  useDrawing,
} from "./robot/edits.js";
export { rollingN } from "./robot/found.js";
export { drawnTrackWidthM, drawnValue, type RobotInForce, robotInForce } from "./robot/inForce.js";
export { type DeviceTerminal, deviceTerminals } from "./robot/needs.js";
export { findPart, isFixedRef, partsOf, type RobotPart } from "./robot/parts.js";
export { PLACING, type PlacedBy, placedBy } from "./robot/placing.js";
export { withProposedWiring } from "./robot/propose.js";
export {
  QUANTITIES,
  type QuantityInfo,
  quantityAt,
  rangeFault,
  STAGE_QUANTITIES,
  shownQuantity,
  withError,
} from "./robot/quantities.js";
export { openRobot, readRobot } from "./robot/read.js";
export type {
  Attachment,
  Robot,
} from "./robot/schema.js";
export { robotSketch } from "./robot/sketch.js";
export { checkWiring, fits, type WiringNote } from "./robot/wiring.js";
export { ByOwnCount, FromAbove } from "./run/observer.js";
export { Run, type RunResult } from "./run/run.js";
export { floorOffsets } from "./sensors/floorSensor.js";
export { type Sensor, type SensorOf, sensorKind, sensorSchema } from "./sensors/kinds/all.js";
export { nearLimitM, silentRad } from "./sensors/kinds/eye.js";
export { tagReferences } from "./sensors/kinds/tag.js";
export { SimulatedBody } from "./simulate/body.js";
export type { Oddities } from "./simulate/disturbance.js";
export { bodyPose, type Deviations, noDeviations, robotPose, worldFromRobot } from "./simulate/fromRobot.js";
export { type Adjustments, leversOf, type RunDraw, usualScatter } from "./simulate/scatter.js";
export type { Touch } from "./simulate/touches.js";
export { traceToCsv } from "./trials/csv.js";
export {
  compareRuns,
  differenceWords,
  isNotable,
  poseAt,
  poseDifference,
  type RunDifference,
} from "./trials/differences.js";
export { LARGEST_TRACE, LARGEST_UNPACKED, packTrace, TRACE_FORMAT, traceFault, unpackTrace } from "./trials/packing.js";
export { HAND_COLUMNS, recordedHands, scriptedHands } from "./trials/recordedHands.js";
export {
  type KeptRun,
  keptRunSchema,
  type RunSummary,
  runSummarySchema,
  type StepSummary,
  storedSummary,
  type TrialSummary,
  trialSummarySchema,
} from "./trials/summary.js";
export { judgedByTape, type TapeJudgement } from "./trials/taped.js";
export { type ColumnInfo, columnName, columnUnit, type Trace, traceColumn, traceHash } from "./trials/trace.js";
export { foundAt, type TypedTape, typedTapeSchema } from "./trials/typedTape.js";
export { ANGLE, type Dimension, LENGTH, MASS, NUMBER, sameDimension } from "./units/dimension.js";
export { drawnKnown, foundValue, type Known } from "./units/known.js";
export { plainDigits, readQuantity } from "./units/quantity.js";
export { RANGES } from "./units/ranges.js";
export { findUnit } from "./units/units.js";
export { GLOSSARY, glossaryPage } from "./words/glossary.js";
export { NEVER_NAMES, RESERVED, type StickWord, TAIL_ORDER, TOP_FORMS } from "./words/language.js";
export { PLAIN } from "./words/plainFault.js";
