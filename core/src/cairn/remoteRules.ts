// What lines of `remote` need: controls that exist, an end for everything a button begins, shares in their range.
import { driveKind } from "../drives/kinds.js";
import { BUTTONS, LEVELS } from "../remote/handset.js";
import { ACCELERATION, ANGLE, NUMBER, SPEED } from "../units/dimension.js";
import { nearestWord, type StickWord } from "../words/language.js";
import type { CheckContext } from "./checkContext.js";
import type { EffectsOf } from "./effects.js";
import { moverOf, WHEELS } from "./effects.js";
import { type KindScope, literalValue, requireDimension } from "./expressionKinds.js";
import {
  bothButtons,
  boundTwice,
  driveTwice,
  keepsMotor,
  neverHandsOver,
  noRelease,
  noTank,
  notForButton,
  onOffDriver,
  outOfStickRange,
  type Span,
  unknownControl,
  unknownMotor,
} from "./problems.js";
import { requireShare } from "./stepRules.js";
import { type Block, type Statement, statementsOf, stepsInside } from "./tree.js";

type Of<T extends Statement["type"]> = Extract<Statement, { type: T }>;

/** Steps a button may do by itself; everything else belongs in a routine. */
const FOR_BUTTONS: ReadonlySet<Statement["type"]> = new Set<Statement["type"]>([
  "power",
  "move",
  "light",
  "beep",
  "show",
  "note",
  "send",
  "stop",
  "coast",
  "call",
]);

/** Ranges of what shapes the sticks, with words for them. */
const STICK_RANGES: Readonly<Partial<Record<StickWord, readonly [number, number, string, string]>>> = {
  turning: [0, 1, "0 %", "100 %"],
  dead: [0, 0.9, "0 %", "90 %"],
  curve: [0.2, 5, "0.2", "5"],
  switching: [0.05, 1, "5 %", "100 %"],
};

interface RemoteRules {
  readonly context: CheckContext;
  readonly scope: KindScope;
  readonly effects: EffectsOf;
  readonly handsOver: boolean;
  /** Checks a step as if it stood in a routine. */
  check(statement: Statement): void;
}

export function checkRemote(block: Block, head: Span, rules: RemoteRules): void {
  const { scope, effects, context } = rules;
  if (!rules.handsOver) scope.report(neverHandsOver(head));
  let drives = 0;
  const bound = new Set<string>();
  const moving = new Map<string, { readonly button: string; readonly held: boolean }>();
  const moves = (button: string, held: boolean, statement: Statement, at: Span) => {
    for (const step of stepsInside(statement))
      for (const part of effects.statement(step).moves) {
        const other = moving.get(part);
        // Up and down on two held buttons is what everybody does: letting go of both stops it.
        const pair = held && other?.held;
        if (other && other.button !== button && part !== WHEELS && !pair)
          scope.report(bothButtons(at, button, other.button, part));
        moving.set(part, { button, held });
      }
  };
  for (const statement of statementsOf(block)) {
    if (statement.type === "drive") {
      drives += 1;
      if (drives > 1) scope.report(driveTwice(statement));
      checkDrive(statement, rules);
    } else if (statement.type === "binding") {
      const { name } = statement.control;
      if (!(BUTTONS as readonly string[]).includes(name))
        scope.report(unknownControl(statement.control, name, nearestWord(name, BUTTONS), "button"));
      else if (statement.action && bound.has(name)) scope.report(boundTwice(statement.control, name));
      if (statement.action) bound.add(name);
      checkBinding(statement, rules);
      moves(name, statement.how === "hold", statement, statement.control);
    } else if (statement.type === "dial") {
      checkDial(statement, rules);
      const part = moverOf(context.robot, statement.part.name);
      const other = moving.get(part);
      if (other) scope.report(bothButtons(statement.control, statement.control.name, other.button, part));
      moving.set(part, { button: statement.control.name, held: false });
    }
  }
}

function checkDrive(statement: Of<"drive">, { context, scope }: RemoteRules): void {
  const { robot } = context;
  if (!driveKind(robot.drive).turnsOnSpot && statement.mode === "tank") scope.report(noTank(statement, robot.name));
  for (const { word, value } of statement.settings) {
    if (word === "at") requireDimension(value, SPEED, "at", "cm/s", scope);
    else if (word === "ramp") requireDimension(value, ACCELERATION, "ramp", "cm/s/s", scope);
    else if (word === "curve") requireDimension(value, NUMBER, "curve", "", scope);
    else requireShare(value, word, scope);
    const range = STICK_RANGES[word];
    const literal = literalValue(value);
    if (range && literal !== null && (literal < range[0] || literal > range[1]))
      scope.report(outOfStickRange(value, word, range[2], range[3]));
  }
  if (robot.board.driver === "on-off" && !statement.settings.some(({ word }) => word === "switching"))
    scope.report(onOffDriver(statement, robot.name));
}

function checkBinding(statement: Of<"binding">, rules: RemoteRules): void {
  const { scope, context } = rules;
  const { action, ceiling, ending, how } = statement;
  if (ceiling) requireDimension(ceiling, SPEED, "at", "cm/s", scope);
  if (!action) return;
  const steps = [action, ...(ending?.does === "step" ? [ending.step] : [])];
  for (const step of steps) {
    if (!FOR_BUTTONS.has(step.type) || ((step.type === "power" || step.type === "stop") && step.motor === null))
      scope.report(notForButton(step, step.type));
    else rules.check(step);
  }
  const word = how === "hold" ? "release" : "again";
  if (ending === null) return scope.report(noRelease(statement, how, word));
  if (ending.does !== "keep") return;
  // A servo holds where it is told to; a motor goes on and on.
  const part = action.type === "power" ? action.motor : action.type === "move" ? action.part : null;
  if (part === null) return;
  const mover = moverOf(context.robot, part.name);
  const holds = action.type === "move" && context.robot.servos.some(({ name }) => name === mover);
  if (!holds) scope.report(keepsMotor({ start: statement.end - 4, end: statement.end }, part.name, word));
}

function checkDial(statement: Of<"dial">, { context, scope }: RemoteRules): void {
  const { name } = statement.control;
  if (!(LEVELS as readonly string[]).includes(name))
    scope.report(unknownControl(statement.control, name, nearestWord(name, LEVELS), "slider"));
  requireDimension(statement.from, ANGLE, "from", "deg", scope);
  requireDimension(statement.to, ANGLE, "to", "deg", scope);
  const servos = context.robot.servos.filter(({ kind }) => kind === "positional").map((servo) => servo.name);
  const parts = context.robot.attachments.filter(({ drivenBy }) => drivenBy !== null && servos.includes(drivenBy));
  const known = [...servos, ...parts.map((part) => part.name)];
  if (!known.includes(statement.part.name))
    scope.report(unknownMotor(statement.part, statement.part.name, nearestWord(statement.part.name, known), "servo"));
}
