// What steps do to the robot, calls included: whether they take time, drive, or move which part. Used to keep
// `every` short and the branches of `together` out of each other's way.
import type { Robot } from "../robot/schema.js";
import type { RoutineSymbol, Symbols } from "./symbols.js";
import { type Block, type Expression, innerBlocks, type Statement, statementsOf, type Tail } from "./tree.js";

export interface Effects {
  /** The first step that takes time, or null. */
  readonly slow: Statement | null;
  /** What it can move: "the wheels", or names of motors and servos. */
  readonly moves: ReadonlySet<string>;
}

export const WHEELS = "the wheels";

const ENDS = new Set(["for", "until", "limit"]);

/** Whether a step that could pass on ends by itself. */
export function endsItself(tails: readonly Tail[]): boolean {
  return tails.some((tail) => ENDS.has(tail.word));
}

/** A routine called as the whole right side of `set`, or null. */
export function calledBySet(value: Expression, symbols: Symbols): RoutineSymbol | null {
  return value.type === "call" ? (symbols.routines.get(value.name) ?? null) : null;
}

function takesTime(statement: Statement): boolean {
  switch (statement.type) {
    case "go":
    case "go to":
    case "go along":
    case "slide":
    case "turn":
    case "face":
    case "arc":
    case "wait":
    case "press":
    case "follow line":
    case "follow wall":
    case "home":
    case "aim":
    case "scan":
    case "repeat":
    case "every":
    case "together":
    case "during":
    case "hand over":
      return true;
    case "move":
      return statement.how !== null || endsItself(statement.tails);
    case "roll":
    case "wheels":
    case "power":
      return endsItself(statement.tails);
    default:
      return false;
  }
}

/** Names of the motor or servo that turns a part. */
export function moverOf(robot: Robot, name: string): string {
  return robot.attachments.find((part) => part.name === name)?.drivenBy ?? name;
}

function movedBy(statement: Statement, robot: Robot): string | null {
  switch (statement.type) {
    case "go":
    case "go to":
    case "go along":
    case "slide":
    case "turn":
    case "face":
    case "arc":
    case "roll":
    case "wheels":
    case "steer":
    case "press":
    case "follow line":
    case "follow wall":
    case "hand over":
      return WHEELS;
    case "power":
    case "stop":
    case "coast":
      // Stopping a task moves nothing.
      return statement.motor
        ? robot.motors.some(({ name }) => name === statement.motor?.name) ||
          robot.servos.some(({ name }) => name === statement.motor?.name) ||
          robot.attachments.some(({ name }) => name === statement.motor?.name)
          ? moverOf(robot, statement.motor.name)
          : null
        : WHEELS;
    case "move":
    case "home":
    case "aim":
    case "scan":
    case "dial":
      return moverOf(robot, statement.part.name);
    default:
      return null;
  }
}

export class EffectsOf {
  private readonly known = new Map<string, Effects>();

  constructor(
    private readonly symbols: Symbols,
    private readonly robot: Robot,
  ) {}

  routine(name: string): Effects {
    const found = this.known.get(name);
    if (found) return found;
    // Stands in while circles of calls are followed; those are refused elsewhere.
    this.known.set(name, { slow: null, moves: new Set() });
    const symbol = this.symbols.routines.get(name);
    const effects = symbol ? this.block(symbol.routine.body) : { slow: null, moves: new Set<string>() };
    this.known.set(name, effects);
    return effects;
  }

  block(block: Block): Effects {
    let slow: Statement | null = null;
    const moves = new Set<string>();
    for (const statement of statementsOf(block)) {
      const own = this.statement(statement);
      slow ??= own.slow;
      for (const name of own.moves) moves.add(name);
    }
    return { slow, moves };
  }

  statement(statement: Statement): Effects {
    const moves = new Set<string>();
    const moved = movedBy(statement, this.robot);
    if (moved) moves.add(moved);
    let slow: Statement | null = takesTime(statement) ? statement : null;
    const inner = innerBlocks(statement).map((block) => this.block(block));
    const called =
      statement.type === "call"
        ? statement.name.name
        : statement.type === "set"
          ? calledBySet(statement.value, this.symbols)?.routine.name.name
          : undefined;
    if (called !== undefined) inner.push(this.routine(called));
    for (const effects of inner) {
      if (effects.slow) slow ??= statement;
      for (const name of effects.moves) moves.add(name);
    }
    return { slow, moves };
  }
}
