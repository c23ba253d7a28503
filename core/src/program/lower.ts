// A checked mission to its program. Steps that act on the robot; blocks are in lowerBlocks.

import type { CheckResult } from "../cairn/check.js";
import type { CheckContext } from "../cairn/checkContext.js";
import { EffectsOf, endsItself, moverOf } from "../cairn/effects.js";
import { kindWords } from "../cairn/kinds.js";
import { aheadOf, floorNamed, movePassesOn } from "../cairn/partRules.js";
import { readingLayout } from "../cairn/readings.js";
import { routinesCalledFirst } from "../cairn/symbols.js";
import { type Block, headerValue, type Mission, type Statement, statementsOf, type Tail } from "../cairn/tree.js";
import type { CrossingChoice } from "../control/followLine.js";
import { BUTTONS, LEVELS } from "../remote/handset.js";
import { floorOffsets } from "../sensors/floorSensor.js";
import type { StickWord } from "../words/language.js";
import {
  type BindingCode,
  type InstructionOf,
  type MotionCode,
  type OptionsCode,
  PROGRAM_FORMAT,
  PROGRAM_VERSION,
  type Program,
  type RemoteCode,
  type SticksCode,
} from "./instructions.js";
import { NO_ENDINGS } from "./lowerBase.js";
import { BlockLowering } from "./lowerBlocks.js";
import { boundedValue, kindInScope, lowerValue, wordingOf } from "./lowerCode.js";
import { goalCode } from "./lowerGoal.js";

/** @throws RangeError when the mission was not runnable */
export function lowerMission(mission: Mission, checked: CheckResult, context: CheckContext): Program {
  if (!checked.runnable || !mission.body) throw new RangeError("only a mission without errors can be lowered");
  return new Lowering(mission, checked, context).lower(mission.body);
}

type Of<T extends Statement["type"]> = Extract<Statement, { type: T }>;
type FollowLineCode = Extract<MotionCode, { is: "follow line" }>;
type FollowWallCode = Extract<MotionCode, { is: "follow wall" }>;

/** Names by their slot. */
function inOrder(symbols: ReadonlyMap<string, { readonly slot: number }>): string[] {
  return [...symbols].sort(([, a], [, b]) => a.slot - b.slot).map(([name]) => name);
}

class Lowering extends BlockLowering {
  private readonly effects = new EffectsOf(this.checked.symbols, this.context.robot);
  private readonly byGyro = this.context.robot.sensors.some((sensor) => sensor.kind === "gyro");

  lower(body: Block): Program {
    const { mission, checked, context } = this;
    const { symbols } = checked;
    for (const routine of routinesCalledFirst(symbols)) this.routine(routine);
    const start = this.here;
    this.block(body);
    this.emit({ op: "end" });
    const endOfTask = this.here - 1;
    const remote = mission.remote ? this.remoteOf(mission.remote) : null;
    const sets = mission.sets.map((line) => ({
      global: symbols.globals.get(line.name.name)?.slot ?? 0,
      value: this.value(line.value),
    }));
    const goal = mission.goal ? goalCode(mission.goal.condition, this.scope, (part) => this.source(part)) : null;
    this.settle();
    return {
      format: PROGRAM_FORMAT,
      version: PROGRAM_VERSION,
      begin: headerValue(mission, "begin"),
      instructions: this.instructions,
      start,
      endOfTask,
      globals: inOrder(symbols.globals),
      routines: [...symbols.routines]
        .sort(([, a], [, b]) => a.index - b.index)
        .map(([name, { locals }]) => ({ name, values: inOrder(locals) })),
      counters: this.counters,
      readings: readingLayout(context.robot).count,
      signals: this.signals,
      sets,
      remembered: mission.sets
        .filter((line) => line.remembered)
        .flatMap((line) => {
          const symbol = symbols.globals.get(line.name.name);
          return symbol
            ? [
                {
                  name: symbol.name,
                  global: symbol.slot,
                  kind: kindWords(symbol.kind),
                  words: wordingOf(symbol.kind),
                },
              ]
            : [];
        }),
      lists: mission.lists.map(({ name, most, rolling, by }) => ({
        name: name.name,
        most,
        rolling,
        table: by !== null,
      })),
      goal,
      remote,
    };
  }

  protected simple(statement: Statement): void {
    const motion = this.motionOf(statement);
    if (!motion || !("tails" in statement)) {
      if (!this.partStep(statement)) this.plain(statement);
      return;
    }
    const named = this.named(statement);
    const passes = statement.type === "roll" || statement.type === "wheels" || statement.type === "power";
    if (passes && !endsItself(statement.tails)) this.emit({ op: "roll on", ...named, motion });
    else this.emit({ op: "drive", ...named, motion, endings: this.endings(statement) });
  }

  /** The motion of a driving step; null for other steps. */
  private motionOf(statement: Statement): MotionCode | null {
    switch (statement.type) {
      case "go": {
        const { back, tails } = statement;
        return { is: "straight", length: this.maybe(statement.distance), back, options: this.options(tails) };
      }
      case "slide": {
        const { side, distance, tails } = statement;
        const options = this.options(tails, "sliding");
        return { is: "slide", length: this.maybe(distance), side: side === "right" ? -1 : 1, options };
      }
      case "go to": {
        const { place, back } = statement;
        return {
          is: "places",
          places: [place ? { x: this.number(place.x), y: this.number(place.y) } : { x: [0], y: [0] }],
          facing: this.maybe(statement.facing),
          back,
          look: null,
          options: this.options(statement.tails),
        };
      }
      case "go along": {
        const line = this.checked.symbols.paths.get(statement.path.name)?.line;
        const places = (line?.places ?? []).map(({ x, y }) => ({ x: this.number(x), y: this.number(y) }));
        const { back, tails } = statement;
        const look = this.maybe(statement.look);
        return { is: "places", places, facing: null, back, look, options: this.options(tails) };
      }
      case "turn":
        return {
          is: "turn",
          angle: this.maybe(statement.amount),
          side: statement.side === "right" ? -1 : 1,
          about: statement.about,
          byGyro: this.byGyro,
          options: this.options(statement.tails, "turning"),
        };
      case "face":
        return {
          is: "face",
          heading: statement.angle ? this.number(statement.angle) : [0],
          byGyro: this.byGyro,
          options: this.options(statement.tails, "turning"),
        };
      case "arc":
        return {
          is: "arc",
          angle: this.maybe(statement.amount),
          side: statement.side === "right" ? -1 : 1,
          radius: this.number(statement.radius),
          back: statement.back,
          options: this.options(statement.tails),
        };
      case "roll":
        return {
          is: "roll",
          speed: this.number(statement.speed),
          rate: this.maybe(statement.turning),
          ramp: this.tailNumber(statement.tails, "ramp"),
        };
      case "wheels":
        return {
          is: "wheels",
          left: this.number(statement.left),
          right: this.number(statement.right),
          ramp: this.tailNumber(statement.tails, "ramp"),
        };
      case "power":
        return statement.motor
          ? null
          : { is: "power", left: this.number(statement.left), right: this.number(statement.right) };
      case "press":
        return { is: "press", back: statement.back, using: this.tailNumber(statement.tails, "using") };
      case "follow line":
        return this.followLine(statement);
      case "follow wall":
        return this.followWall(statement);
      default:
        return null;
    }
  }

  private followLine(statement: Of<"follow line">): FollowLineCode {
    const found = floorNamed(this.context.robot.sensors, statement.sensor.name);
    if (!found) throw new RangeError(`no light sensor "${statement.sensor.name}"`);
    const { sensor, spot } = found;
    const { tails } = statement;
    const offsets = floorOffsets(sensor.layout, sensor.count, sensor.spacingM);
    const first = this.scope.readings.get(this.lightName(sensor.name, sensor.layout, 0))?.slot ?? 0;
    const one = spot === "right" ? 1 : /^\[/.test(spot) ? Number(spot.slice(1, -1)) - 1 : 0;
    const chosen = statement.edge === null ? offsets.map((_, i) => i) : [one];
    return {
      is: "follow line",
      // Each spot has light, colour and dark, in this order.
      slots: chosen.map((i) => first + 3 * i),
      offsetsM: chosen.map((i) => offsets[i] as number),
      aheadM: sensor.xM,
      spotM: sensor.spotM,
      dark: sensor.dark.value,
      edge: statement.edge === null ? 0 : statement.edge === "left" ? 1 : -1,
      gain: this.tailNumber(tails, "gain"),
      damp: this.tailNumber(tails, "damp"),
      bridge: this.tailNumber(tails, "bridge"),
      crossings: (tails.find((tail) => tail.word === "crossings")?.choice as CrossingChoice | undefined) ?? "straight",
      options: this.options(tails),
    };
  }

  private followWall(statement: Of<"follow wall">): FollowWallCode {
    const { sensor, side, tails } = statement;
    const { robot } = this.context;
    const slotOf = (reading: string) => this.scope.readings.get(reading)?.slot ?? 0;
    const eye = robot.sensors.find((candidate) => candidate.name === sensor.name);
    const ahead = aheadOf(robot, sensor.name);
    // It stops or turns where its nose is a hand's breadth from what stands there.
    const nose = Math.max(...robot.chassis.outlineM.map(([x]) => x));
    return {
      is: "follow wall",
      slot: slotOf(`${sensor.name}.distance`),
      side,
      aheadM: eye?.xM ?? 0,
      besideM: eye?.yM ?? 0,
      noseM: Math.max(nose, ahead?.xM ?? nose),
      corners: (tails.find((tail) => tail.word === "corners")?.choice ?? null) as FollowWallCode["corners"],
      ahead:
        ahead === null
          ? null
          : ahead.kind === "bumper"
            ? { slot: slotOf(`${ahead.name}.pressed`), nearM: 0 }
            : { slot: slotOf(`${ahead.name}.distance`), nearM: nose - ahead.xM + 0.12 },
      away: this.number(statement.away),
      options: this.options(tails),
    };
  }

  private lightName(name: string, layout: "single" | "pair" | "row", index: number): string {
    if (layout === "single") return `${name}.light`;
    return layout === "pair" ? `${name}.${index === 0 ? "left" : "right"}.light` : `${name}[${index + 1}].light`;
  }

  private options(tails: readonly Tail[], how: OptionsCode["how"] = "straight"): OptionsCode {
    return {
      how,
      at: this.tailNumber(tails, "at"),
      ramp: this.tailNumber(tails, "ramp"),
      using: this.tailNumber(tails, "using"),
      keep: tails.some((tail) => tail.ending === "keep"),
    };
  }

  // Driving by hand

  private remoteOf(block: Block): RemoteCode {
    const { robot, drive } = this.context;
    const remote: RemoteCode = { sticks: null, bindings: [], dials: [], steerRad: drive.steering?.mostRad ?? null };
    for (const line of statementsOf(block)) {
      if (line.type === "drive") remote.sticks = this.sticksOf(line);
      else if (line.type === "binding") remote.bindings.push(this.bindingOf(line));
      else if (line.type === "dial") {
        const level = (LEVELS as readonly string[]).indexOf(line.control.name);
        const part = moverOf(robot, line.part.name);
        remote.dials.push({ level, part, from: this.number(line.from), to: this.number(line.to) });
      }
    }
    return remote;
  }

  private sticksOf({ mode, settings }: Of<"drive">): SticksCode {
    const of = (word: StickWord) => this.maybe(settings.find((setting) => setting.word === word)?.value ?? null);
    return {
      mode,
      at: of("at"),
      turning: of("turning"),
      dead: of("dead"),
      curve: of("curve"),
      ramp: of("ramp"),
      switching: of("switching"),
    };
  }

  private bindingOf({ how, control, ceiling, action, ending }: Of<"binding">): BindingCode {
    const moves = new Set<string>();
    const entryOf = (step: Statement): number => {
      for (const part of this.effects.statement(step).moves) moves.add(part);
      const at = this.here;
      this.held(step);
      return at;
    };
    const most = this.maybe(ceiling);
    const entry = action ? entryOf(action) : null;
    const after = ending?.does === "step" ? entryOf(ending.step) : (ending?.does ?? "stop");
    return {
      how,
      button: (BUTTONS as readonly string[]).indexOf(control.name),
      ceiling: most,
      entry,
      routine: action?.type === "call",
      ending: after,
      moves: [...moves],
    };
  }

  /** Steps with arms, heads and motors. */
  private partStep(statement: Statement): boolean {
    const named = this.named(statement);
    switch (statement.type) {
      case "power":
        this.motorPower(statement);
        return true;
      case "move":
        this.move(statement);
        return true;
      case "home":
        this.emit({
          op: "home",
          ...named,
          part: moverOf(this.context.robot, statement.part.name),
          toward: statement.toward,
          using: this.tailNumber(statement.tails, "using"),
          endings: this.endings(statement),
        });
        return true;
      case "aim":
        this.emit({
          op: "aim",
          ...named,
          head: statement.part.name,
          angle: this.number(statement.angle),
          endings: NO_ENDINGS,
        });
        return true;
      case "scan":
        this.emit({
          op: "scan",
          ...named,
          head: statement.part.name,
          from: this.number(statement.from),
          to: this.number(statement.to),
          looks: this.number(statement.looks),
          endings: NO_ENDINGS,
        });
        return true;
      default:
        return false;
    }
  }

  private motorPower(statement: Of<"power">): void {
    const motor = moverOf(this.context.robot, statement.motor?.name ?? "");
    const order = { ...this.named(statement), motor, duty: this.number(statement.left) };
    if (endsItself(statement.tails)) this.emit({ op: "motor", ...order, endings: this.endings(statement) });
    else this.emit({ op: "motor on", ...order });
  }

  private move(statement: Of<"move">): void {
    const order = {
      ...this.named(statement),
      part: statement.part.name,
      how: statement.how,
      angle: this.maybe(statement.angle),
      at: this.tailNumber(statement.tails, "at"),
      using: this.tailNumber(statement.tails, "using"),
    };
    if (movePassesOn(statement)) this.emit({ op: "move on", ...order });
    else this.emit({ op: "move", ...order, endings: this.endings(statement) });
  }

  /** Steps that act at once, and `wait`. */
  private plain(statement: Statement): void {
    const named = this.named(statement);
    switch (statement.type) {
      case "wait":
        return this.emit({
          op: "wait",
          ...named,
          duration: this.maybe(statement.duration),
          atMost: this.maybe(statement.atMost),
          until: statement.until ? this.condition(statement.until) : null,
          limit: this.maybe(statement.limit),
        });
      case "stop":
      case "coast":
        return this.stop(statement);
      case "steer":
        return this.emit({ op: "steer", ...named, angle: this.number(statement.angle) });
      case "note":
        return this.emit({ op: "note", ...named, name: statement.name.name, value: this.value(statement.value) });
      case "show":
        return this.emit({ op: "show", ...named, values: statement.values.map((value) => this.shown(value)) });
      case "light":
        return this.emit({ op: "light", ...named, share: this.number(statement.share) });
      case "beep":
        return this.emit({
          op: "beep",
          ...named,
          pitch: this.maybe(statement.pitch),
          duration: this.maybe(statement.duration),
        });
      case "reset":
        return this.emit({ op: "reset", ...named, what: statement.what.name });
      case "send":
        return this.emit({ op: "send", ...named, signal: this.signal(statement.signal.name) });
      case "finish":
        return this.emit({ op: "finish", ...named });
      case "hand over":
        return this.emit({ op: "hand over", ...named, endings: this.endings(statement) });
      default:
        throw new RangeError(`cannot lower "${statement.type}"`);
    }
  }

  /** A value as the display shows it: the words of it before it, unless it is a text. */
  private shown(value: Of<"show">["values"][number]): InstructionOf<"show">["values"][number] {
    const source = this.source(value);
    const kind = kindInScope(value, this.scope);
    const code = [...boundedValue(lowerValue(value, this.scope), value, source)];
    return kind.is === "text"
      ? { label: "", value: code, words: null }
      : { label: `${source} `, value: code, words: wordingOf(kind) };
  }

  private stop(statement: Of<"stop"> | Of<"coast">): void {
    const named = this.named(statement);
    const routine = statement.motor ? this.checked.symbols.routines.get(statement.motor.name) : undefined;
    if (routine && statement.type === "stop")
      return this.emit({ op: "stop routine", ...named, routine: routine.index });
    const { robot } = this.context;
    const motor = statement.motor ? moverOf(robot, statement.motor.name) : undefined;
    const mode = statement.type === "stop" ? "brake" : "coast";
    const driven = robot.wheels.some((wheel) => wheel.drivenBy === motor);
    if (motor !== undefined && !driven) this.emit({ op: "stop motor", ...named, mode, motor });
    else this.emit({ op: "stop drive", ...named, mode });
  }
}
