// A checked mission to a list of closures: the steps that act on the robot. Blocks are in compileBlocks.
import type { CrossingChoice } from "../control/followLine.js";
import type { MotionOptions } from "../control/motions.js";
import { PI } from "../math/trig.js";
import { BUTTONS, LEVELS } from "../remote/handset.js";
import { floorOffsets } from "../sensors/floorSensor.js";
import { plainDigits } from "../units/quantity.js";
import type { CheckContext, CheckResult } from "./checker.js";
import { BlockCompiler } from "./compileBlocks.js";
import {
  arc,
  beginDrive,
  face,
  followLine,
  followWall,
  goPlaces,
  type LineReadings,
  power,
  press,
  roll,
  straight,
  turn,
  type WallReadings,
  wheels,
} from "./driveSteps.js";
import { EffectsOf, endsItself, moverOf } from "./effects.js";
import { type GoalPart, goalParts } from "./goals.js";
import {
  type BindingProgram,
  type DialProgram,
  handOverStep,
  type RemoteProgram,
  type StickProgram,
} from "./handOver.js";
import type { Kind } from "./kinds.js";
import { aimStep, homeStep, motorStep, moveStep, scanStep, startMove, waitStep } from "./otherSteps.js";
import { aheadOf, floorNamed, movePassesOn } from "./partRules.js";
import { shownValue } from "./shown.js";
import { routinesCalledFirst } from "./symbols.js";
import type { MotionMaker, NumberOf, Op, Task } from "./task.js";
import { type Block, type ListLine, type Mission, type Statement, statementsOf, type Tail } from "./tree.js";
import type { StickWord } from "./words.js";

export interface Program {
  readonly ops: readonly Op[];
  /** Where the mission begins. */
  readonly start: number;
  /** Where a started routine ends. */
  readonly endOfTask: number;
  readonly globalCount: number;
  readonly counterCount: number;
  readonly signals: readonly string[];
  /** Values kept from one run to the next. */
  readonly remembered: readonly { readonly name: string; readonly slot: number; readonly kind: Kind }[];
  readonly lists: readonly ListLine[];
  /** Sets the mission's values before it starts. */
  readonly initialise: (task: Task) => void;
  readonly goal: { readonly test: NumberOf; readonly text: string; readonly parts: readonly GoalPart[] } | null;
  /** Some step hands over to a driver. */
  readonly handsOver: boolean;
  readonly mission: Mission;
}

/** @throws RangeError when the mission was not runnable */
export function compileMission(mission: Mission, checked: CheckResult, context: CheckContext): Program {
  if (!checked.runnable || !mission.body) throw new RangeError("only a mission without errors can be compiled");
  return new Compiler(mission, checked, context).compile(mission.body);
}

type Of<T extends Statement["type"]> = Extract<Statement, { type: T }>;
type Tailed = Statement & { readonly tails: readonly Tail[] };

class Compiler extends BlockCompiler {
  private remote: RemoteProgram | null = null;
  private readonly effects = new EffectsOf(this.checked.symbols, this.context.robot);
  private readonly byGyro = this.context.robot.sensors.some((sensor) => sensor.kind === "gyro");

  compile(body: Block): Program {
    const { mission, checked } = this;
    for (const routine of routinesCalledFirst(this.checked.symbols)) this.routine(routine);
    const start = this.ops.length;
    this.block(body);
    const endOfTask = this.endTask();
    if (mission.remote) this.remote = this.remoteOf(mission.remote);
    const sets = mission.sets.map((line) => ({
      slot: checked.symbols.globals.get(line.name.name)?.slot ?? 0,
      value: this.value(line.value),
    }));
    return {
      ops: this.ops,
      start,
      endOfTask,
      globalCount: checked.symbols.globals.size,
      counterCount: this.counters,
      signals: this.signals,
      remembered: mission.sets
        .filter((line) => line.remembered)
        .flatMap((line) => {
          const symbol = checked.symbols.globals.get(line.name.name);
          return symbol ? [{ name: symbol.name, slot: symbol.slot, kind: symbol.kind }] : [];
        }),
      lists: mission.lists,
      initialise: (task) => {
        for (const { slot, value } of sets) task.machine.globals[slot] = value(task);
      },
      goal: mission.goal
        ? {
            test: this.goalTest(mission.goal.condition),
            text: this.source(mission.goal.condition),
            parts: goalParts(mission.goal.condition, this.scope, (part) => this.source(part)),
          }
        : null,
      handsOver: this.remote !== null,
      mission,
    };
  }

  protected simple(statement: Statement): void {
    const motion = this.motionOf(statement);
    if (motion && "tails" in statement) {
      const passes = statement.type === "roll" || statement.type === "wheels" || statement.type === "power";
      return passes && !endsItself(statement.tails) ? this.passOn(statement, motion) : this.drive(statement, motion);
    }
    if (!this.partStep(statement)) this.plain(statement);
  }

  /** The motion of a driving step; null for other steps. */
  private motionOf(statement: Statement): MotionMaker | null {
    switch (statement.type) {
      case "go":
        return straight(this.maybe(statement.distance), statement.back, this.options(statement.tails, "straight"));
      case "go to": {
        const { place, facing, back } = statement;
        const to = place ? [{ x: this.number(place.x), y: this.number(place.y) }] : [{ x: () => 0, y: () => 0 }];
        return goPlaces(
          { places: to, facing: this.maybe(facing), back, lookM: null },
          this.options(statement.tails, "straight"),
        );
      }
      case "go along": {
        const line = this.checked.symbols.paths.get(statement.path.name)?.line;
        const places = (line?.places ?? []).map(({ x, y }) => ({ x: this.number(x), y: this.number(y) }));
        const order = { places, facing: null, back: statement.back, lookM: this.maybe(statement.look) };
        return goPlaces(order, this.options(statement.tails, "straight"));
      }
      case "turn": {
        const side = statement.side === "right" ? -1 : 1;
        const options = this.options(statement.tails, "turning");
        return turn(this.maybe(statement.amount), side, statement.about, options, this.byGyro);
      }
      case "face": {
        const heading = statement.angle ? this.number(statement.angle) : () => 0;
        return face(heading, this.options(statement.tails, "turning"), this.byGyro);
      }
      case "arc": {
        const side = statement.side === "right" ? -1 : 1;
        const options = this.options(statement.tails, "straight");
        return arc(this.maybe(statement.amount), side, this.number(statement.radius), statement.back, options);
      }
      case "roll": {
        const ramp = this.tailNumber(statement.tails, "ramp");
        return roll(this.number(statement.speed), this.maybe(statement.turning), ramp);
      }
      case "wheels": {
        const ramp = this.tailNumber(statement.tails, "ramp");
        return wheels(this.number(statement.left), this.number(statement.right), ramp);
      }
      case "power":
        return statement.motor ? null : power(this.number(statement.left), this.number(statement.right));
      case "press":
        return press(statement.back, this.tailNumber(statement.tails, "using"));
      case "follow line":
        return followLine(
          this.lineReadings(statement),
          {
            gain: this.tailNumber(statement.tails, "gain"),
            damp: this.tailNumber(statement.tails, "damp"),
            bridgeM: this.tailNumber(statement.tails, "bridge"),
            crossings:
              (statement.tails.find((tail) => tail.word === "crossings")?.choice as CrossingChoice | undefined) ??
              "straight",
          },
          this.options(statement.tails, "straight"),
        );
      case "follow wall":
        return followWall(
          this.wallReadings(statement),
          this.number(statement.away),
          this.options(statement.tails, "straight"),
        );
      default:
        return null;
    }
  }

  private lineReadings(statement: Of<"follow line">): LineReadings {
    const found = floorNamed(this.context.robot.sensors, statement.sensor.name);
    if (!found) throw new RangeError(`no light sensor "${statement.sensor.name}"`);
    const { sensor, spot } = found;
    const offsets = floorOffsets(sensor.layout, sensor.count, sensor.spacingM);
    const first = this.scope.readings.get(this.lightName(sensor.name, sensor.layout, 0))?.slot ?? 0;
    const one = spot === "right" ? 1 : /^\[/.test(spot) ? Number(spot.slice(1, -1)) - 1 : 0;
    const chosen = statement.edge === null ? offsets.map((_, i) => i) : [one];
    return {
      // Each spot has light, colour and dark, in this order.
      slots: chosen.map((i) => first + 3 * i),
      offsetsM: chosen.map((i) => offsets[i] as number),
      aheadM: sensor.xM,
      spotM: sensor.spotM,
      dark: sensor.dark.value,
      edge: statement.edge === null ? 0 : statement.edge === "left" ? 1 : -1,
    };
  }

  private wallReadings({ sensor, side, tails }: Of<"follow wall">): WallReadings {
    const { robot } = this.context;
    const slotOf = (reading: string) => this.scope.readings.get(reading)?.slot ?? 0;
    const eye = robot.sensors.find((candidate) => candidate.name === sensor.name);
    const ahead = aheadOf(robot, sensor.name);
    // It stops or turns where its nose is a hand's breadth from what stands there.
    const nose = Math.max(...robot.chassis.outlineM.map(([x]) => x));
    return {
      slot: slotOf(`${sensor.name}.distance`),
      side,
      aheadM: eye?.xM ?? 0,
      besideM: eye?.yM ?? 0,
      noseM: Math.max(nose, ahead?.xM ?? nose),
      corners: (tails.find((tail) => tail.word === "corners")?.choice ?? null) as WallReadings["corners"],
      ahead:
        ahead === null
          ? null
          : ahead.kind === "bumper"
            ? { slot: slotOf(`${ahead.name}.pressed`), nearM: 0 }
            : { slot: slotOf(`${ahead.name}.distance`), nearM: nose - ahead.xM + 0.12 },
    };
  }

  private lightName(name: string, layout: "single" | "pair" | "row", index: number): string {
    if (layout === "single") return `${name}.light`;
    return layout === "pair" ? `${name}.${index === 0 ? "left" : "right"}.light` : `${name}[${index + 1}].light`;
  }

  private options(tails: readonly Tail[], how: "straight" | "turning"): (task: Task) => MotionOptions {
    const at = this.tailNumber(tails, "at");
    const ramp = this.tailNumber(tails, "ramp");
    const using = this.tailNumber(tails, "using");
    const keep = tails.some((tail) => tail.ending === "keep");
    return (task) => {
      const { model } = task.machine.drive;
      const usual = how === "straight" ? model.cruiseMS : model.turnRadS;
      const usualRamp = how === "straight" ? model.rampMS2 : model.turnRampRadS2;
      // Slower than a crawl would never end: a speed of nothing is taken as the least that moves.
      return {
        cruise: Math.max(how === "straight" ? 0.005 : PI / 180, at ? at(task) : usual),
        ramp: Math.max(0.01, ramp ? ramp(task) : usualRamp),
        keep,
        mostDuty: using ? Math.max(0.02, Math.min(1, Math.abs(using(task)))) : 1,
      };
    };
  }

  private drive(statement: Tailed, make: MotionMaker): void {
    const endings = this.endings(statement);
    this.timed(statement, (task) => beginDrive(task, make, endings));
  }

  private passOn(statement: Statement, make: MotionMaker): void {
    const label = this.labels.get(statement) ?? "?";
    this.instant(statement, (task) => task.runner.passOn(task, make(task), label));
  }

  // Driving by hand

  private remoteOf(block: Block): RemoteProgram {
    const { robot, drive } = this.context;
    let sticks: StickProgram | null = null;
    const bindings: BindingProgram[] = [];
    const dials: DialProgram[] = [];
    for (const line of statementsOf(block)) {
      if (line.type === "drive") sticks = this.sticksOf(line);
      else if (line.type === "binding") bindings.push(this.bindingOf(line));
      else if (line.type === "dial") {
        const level = (LEVELS as readonly string[]).indexOf(line.control.name);
        const part = moverOf(robot, line.part.name);
        dials.push({ level, part, from: this.number(line.from), to: this.number(line.to) });
      }
    }
    return { sticks, bindings, dials, steerRad: drive.steering?.mostRad ?? null };
  }

  private sticksOf({ mode, settings }: Of<"drive">): StickProgram {
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

  private bindingOf({ how, control, ceiling, action, ending }: Of<"binding">): BindingProgram {
    const moves = new Set<string>();
    const entryOf = (step: Statement): number => {
      for (const part of this.effects.statement(step).moves) moves.add(part);
      const at = this.ops.length;
      this.held(step);
      return at;
    };
    return {
      how,
      button: (BUTTONS as readonly string[]).indexOf(control.name),
      ceiling: this.maybe(ceiling),
      entry: action ? entryOf(action) : null,
      routine: action?.type === "call",
      ending: ending?.does === "step" ? entryOf(ending.step) : (ending?.does ?? "stop"),
      moves,
    };
  }

  /** Steps with arms, heads and motors. */
  private partStep(statement: Statement): boolean {
    switch (statement.type) {
      case "power":
        this.motorPower(statement);
        return true;
      case "move":
        this.move(statement);
        return true;
      case "home": {
        const endings = this.endings(statement);
        const part = moverOf(this.context.robot, statement.part.name);
        const using = this.tailNumber(statement.tails, "using");
        this.timed(statement, (task) => homeStep(task, part, statement.toward, using, endings));
        return true;
      }
      case "aim": {
        const angle = this.number(statement.angle);
        const endings = this.plainEndings(statement);
        this.timed(statement, (task) => aimStep(task, statement.part.name, angle, endings));
        return true;
      }
      case "scan": {
        const [from, to, looks] = [
          this.number(statement.from),
          this.number(statement.to),
          this.number(statement.looks),
        ];
        const endings = this.plainEndings(statement);
        this.timed(statement, (task) => scanStep(task, statement.part.name, { from, to, looks }, endings));
        return true;
      }
      default:
        return false;
    }
  }

  private motorPower(statement: Of<"power">): void {
    const motor = moverOf(this.context.robot, statement.motor?.name ?? "");
    const duty = this.number(statement.left);
    const endings = this.endings(statement);
    if (endsItself(statement.tails)) {
      return this.timed(statement, (task) => motorStep(task, motor, duty(task), endings));
    }
    this.instant(statement, (task) => {
      task.runner.takePart(task, motor, endings.label, true);
      task.machine.motorPower(motor, "drive", duty(task));
    });
  }

  private move(statement: Of<"move">): void {
    const endings = this.endings(statement);
    const order = {
      part: statement.part.name,
      how: statement.how,
      angle: this.maybe(statement.angle),
      at: this.tailNumber(statement.tails, "at"),
      using: this.tailNumber(statement.tails, "using"),
    };
    if (!movePassesOn(statement)) return this.timed(statement, (task) => moveStep(task, order, endings));
    this.instant(statement, (task) => {
      task.runner.takePart(task, order.part, endings.label, true);
      startMove(task, order);
    });
  }

  /** Steps that act at once, and `wait`. */
  private plain(statement: Statement): void {
    switch (statement.type) {
      case "wait": {
        const duration = this.maybe(statement.duration);
        const atMost = this.maybe(statement.atMost);
        const until = statement.until ? this.condition(statement.until) : null;
        const limit = this.maybe(statement.limit);
        return this.timed(statement, (task) => waitStep(task, { duration, atMost, until, limit }));
      }
      case "stop":
      case "coast":
        return this.stop(statement);
      case "steer": {
        const angle = this.number(statement.angle);
        const label = this.labels.get(statement) ?? "?";
        return this.instant(statement, (task) => {
          task.runner.takeDrive(task, label);
          task.machine.steer(angle(task));
        });
      }
      case "note": {
        const value = this.value(statement.value);
        return this.instant(statement, (task) => task.machine.note(statement.name.name, value(task)));
      }
      case "show": {
        const shown = statement.values.map((value) => shownValue(value, this.source(value), this.scope));
        return this.instant(statement, (task) =>
          task.machine.sign("show", shown.map((value) => value(task)).join("  ")),
        );
      }
      case "light": {
        const share = this.number(statement.share);
        return this.instant(statement, (task) =>
          task.machine.sign("light", `${Math.floor(Math.max(0, Math.min(1, share(task))) * 100 + 0.5)} %`),
        );
      }
      case "beep": {
        const pitch = this.maybe(statement.pitch);
        const duration = this.maybe(statement.duration);
        return this.instant(statement, (task) => {
          const words = [
            pitch ? `${plainDigits(pitch(task), 0)} Hz` : "",
            duration ? `${plainDigits(duration(task), 2)} s` : "",
          ];
          task.machine.sign("beep", words.filter((word) => word !== "").join(" for "));
        });
      }
      case "reset":
        return this.instant(statement, (task) => task.machine.reset(statement.what.name));
      case "send": {
        const signal = this.signal(statement.signal.name);
        return this.instant(statement, (task) => task.runner.send(signal));
      }
      case "finish":
        return this.instant(statement, (task) => {
          task.ended = true;
          task.machine.finish();
        });
      case "hand over": {
        const endings = this.endings(statement);
        return this.timed(statement, (task) => {
          if (!this.remote) throw new RangeError("a step hands over, but there is no remote");
          return handOverStep(task, this.remote, endings);
        });
      }
      default:
        throw new RangeError(`cannot compile "${statement.type}"`);
    }
  }

  private stop(statement: Of<"stop"> | Of<"coast">): void {
    const task = statement.motor ? this.checked.symbols.routines.get(statement.motor.name) : undefined;
    if (task && statement.type === "stop")
      return this.instant(statement, ({ runner }) => runner.stopRoutine(task.index));
    const motor = statement.motor ? moverOf(this.context.robot, statement.motor.name) : undefined;
    const mode = statement.type === "stop" ? "brake" : "coast";
    const driven = this.context.robot.wheels.some((wheel) => wheel.drivenBy === motor);
    const label = this.labels.get(statement) ?? "?";
    this.instant(statement, (task) => {
      if (motor !== undefined && !driven) {
        task.runner.takePart(task, motor, label, false);
        task.machine.motorPower(motor, mode, 0);
        return task.runner.freePart(task, motor);
      }
      task.runner.takeDrive(task, label);
      if (mode === "brake") task.runner.halt(task);
      else {
        task.machine.setMotion(null);
        task.machine.drive.release(mode);
      }
      task.passing = null;
      task.runner.freeDrive(task);
    });
  }
}
