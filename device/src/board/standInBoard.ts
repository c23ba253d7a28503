// A board of this computer: a processor on a robot that stands on a table. Whoever opens its line gets its bytes, as over a
// cable, and beside them a person's hands and tape.
import {
  type BeginPlace,
  type Commands,
  type DealtPins,
  type FromBench,
  openField,
  openFloor,
  type Pose,
  type Robot,
  restingCommands,
  robotPose,
  type SimulatedBody,
  TICK_MS,
  type ToBench,
  toBenchSchema,
} from "@giddy-pebble/core";
import type { Clock } from "../host/clock.js";
import type { FrameSocket } from "../host/frameSocket.js";
import { Table, type TapeReading } from "../standin/table.js";
import type { LineOut, LinesIn, Processor } from "./processor.js";
import { WiredBody } from "./wiredBody.js";

/** Ticks made up for at most after it was held up; beyond, its time stood still. */
const MOST_LATE_TICKS = 20;
const NOTHING: LinesIn = { levels: new Map(), volts: new Map(), turns: [], echoes: [], gyroRaw: 0, light: [0, 0, 0] };
/** With nobody on its line it goes on for so long, ms. */
const ALONE_MS = 60_000;
/** Whoever reads the tape waits for so long, ticks. */
const TAPE_TICKS = 200;
/** A person sees where it stands so often, ticks. */
const SEEN_EVERY_TICKS = 5;
/** A body that moves slower than this stands, m/s and rad/s. */
const STANDS = { speedMS: 0.005, turnRadS: 0.02 } as const;

/** The table with a body that goes on living whatever drives it. */
class BoardTable extends Table {
  body: SimulatedBody | null = null;

  /** Takes it up and puts it down: what was on its way to the motors is gone. */
  fresh(): SimulatedBody {
    this.body = this.newBody();
    return this.body;
  }

  get pose(): Pose {
    return robotPose(this.built, this.world);
  }

  get stands(): boolean {
    const { world } = this;
    const fast = Math.hypot(world.velocityX, world.velocityY);
    return fast < STANDS.speedMS && Math.abs(world.turnRateRadS) < STANDS.turnRadS;
  }
}

export class StandInBoard {
  private readonly table: BoardTable;
  private body: SimulatedBody;
  private wired: WiredBody | null = null;
  private pins: DealtPins | null = null;
  private readonly resting: Commands;
  /** The field that was laid out last. */
  private laid = openFloor();
  /** What came of the next one. */
  private laying = "";
  private socket: FrameSocket | null = null;
  private leftAt: number;
  private seenTicks = 0;
  /** Who waits with a tape until it stands, and for how many more ticks. */
  private measuring: { readonly ask: number; ticks: number }[] = [];
  /** The clock's time that its own has come to. */
  private ticked: number;
  /** Of its ticks, how many go by in 10 ms of the clock's. */
  private pace = 1;
  private busy = false;
  private closed = false;
  private off: Promise<void> = Promise.resolve();
  private readonly stop: () => void;

  /** @param failed - told once when its processor ended by itself */
  constructor(
    readonly robot: Robot,
    seed: number,
    readonly kind: "avr" | "micropython",
    private readonly processor: Processor,
    private readonly clock: Clock,
    private readonly failed: (why: string) => void,
  ) {
    this.table = new BoardTable(robot, seed);
    this.body = this.table.fresh();
    this.resting = restingCommands(robot);
    this.ticked = clock.now();
    this.leftAt = clock.now();
    this.stop = clock.every(TICK_MS, () => void this.pass());
  }

  /** Opens its line: one at a time, as a port is. @returns false when somebody has it */
  open(socket: FrameSocket): boolean {
    if (this.socket) return false;
    this.socket = socket;
    socket.onClose(() => {
      this.socket = null;
      this.leftAt = this.clock.now();
    });
    const buttons = this.robot.sensors.filter(({ kind }) => kind === "button").map(({ name }) => name);
    const plugs = this.robot.sensors.map(({ name }) => name);
    this.tell({ told: "board", robot: this.robot.name, kind: this.kind, buttons, plugs, pace: this.pace });
    socket.onMessage((data, isBinary) => {
      if (isBinary) this.processor.receive(data);
      else void this.hear(data.toString("utf8"));
    });
    return true;
  }

  get inUse(): boolean {
    return this.socket !== null;
  }

  private tell(frame: FromBench): void {
    if (this.socket?.open) this.socket.send(JSON.stringify(frame));
  }

  private async hear(text: string): Promise<void> {
    let value: unknown;
    try {
      value = JSON.parse(text);
    } catch {
      return this.tell({ told: "refused", ask: 0, why: "This is not JSON." });
    }
    const read = toBenchSchema.safeParse(value);
    if (!read.success)
      return this.tell({ told: "refused", ask: 0, why: "This is nothing that a board of this computer is asked for." });
    const why = await this.obey(read.data);
    if (why !== null) this.tell({ told: "refused", ask: read.data.ask, why });
    else if (read.data.do !== "tape") this.tell({ told: "done", ask: read.data.ask });
  }

  /** @returns why not, or null */
  private async obey(frame: ToBench): Promise<string | null> {
    const { table, body } = this;
    switch (frame.do) {
      case "reset":
        await this.processor.reset();
        return null;
      case "wire":
        return this.wire(frame.pins);
      case "field":
        return this.lay(frame.at, frame.of, frame.text);
      case "place":
        table.place(frame.keepField ? this.laid : openFloor(), frame.begin as BeginPlace, frame.how);
        this.renew();
        return null;
      case "tape":
        // Whoever measures waits until it stands.
        this.measuring.push({ ask: frame.ask, ticks: TAPE_TICKS });
        return null;
      case "press":
        if (frame.down) body.held.add(frame.button);
        else body.held.delete(frame.button);
        return null;
      case "pack":
        table.changePack(frame.charge);
        this.renew();
        return null;
      case "slow":
        this.ticked = this.clock.now();
        this.pace = frame.times;
        return null;
      case "plug":
        if (!frame.in) table.unplugged.add(frame.part);
        else if (frame.part === "") table.unplugged.clear();
        else table.unplugged.delete(frame.part);
        return null;
    }
  }

  private measure(): void {
    const { table } = this;
    this.measuring = this.measuring.filter((one) => {
      one.ticks -= 1;
      if (table.stands) {
        const reading: TapeReading = table.tape();
        this.tell({ told: "tape", ask: one.ask, ...reading });
      } else if (one.ticks <= 0)
        this.tell({ told: "refused", ask: one.ask, why: "The tape is read while the robot stands. Halt it first." });
      return !table.stands && one.ticks > 0;
    });
  }

  /** Takes the next piece of a field; with the last one it is laid out. */
  private lay(at: number, of: number, text: string): string | null {
    if (at === 0) this.laying = "";
    if (at !== this.laying.length) return "A piece of the field is missing. Send the mission again.";
    this.laying += text;
    if (this.laying.length < of) return null;
    let document: unknown;
    try {
      document = JSON.parse(this.laying);
    } catch {
      return "The field cannot be read. Send the mission again.";
    }
    const read = document === null ? null : openField(document);
    if (read && !read.ok) return `The field cannot be used: ${read.problems[0]}.`;
    const field = read ? read.document : openFloor();
    // The same table as before keeps its loads where they were pushed to.
    if (JSON.stringify(field) !== JSON.stringify(this.laid)) this.laid = field;
    return null;
  }

  private wire(pins: DealtPins): string | null {
    const { robot } = this;
    if (
      pins.motors.length !== robot.motors.length ||
      pins.servos.length !== robot.servos.length ||
      pins.sensors.length !== robot.sensors.length
    )
      return `The robot on this board was built with other parts than this drawing of ${robot.name} has. Build its simulated robot again from the drawing.`;
    this.pins = pins;
    this.renew();
    return null;
  }

  private renew(): void {
    this.body = this.table.fresh();
    this.wired = this.pins && new WiredBody(this.robot, this.pins);
  }

  private async pass(): Promise<void> {
    if (this.busy || this.closed) return;
    // Nobody looks any more: its time stands still.
    if (!this.socket && this.clock.now() - this.leftAt > ALONE_MS) {
      this.ticked = this.clock.now();
      return;
    }
    this.busy = true;
    try {
      const tickMs = TICK_MS / this.pace;
      const due = Math.floor((this.clock.now() - this.ticked) / tickMs);
      this.ticked += due * tickMs;
      for (let i = 0; i < Math.min(due, MOST_LATE_TICKS) && !this.closed; i += 1) await this.tick();
    } catch (error) {
      if (this.closed) return;
      void this.close();
      this.failed(error instanceof Error ? error.message : String(error));
    } finally {
      this.busy = false;
    }
  }

  /** One tick of 10 ms: its sensors, its processor, its motors. */
  async tick(): Promise<void> {
    const { wired, body, processor } = this;
    const raw = body.sense();
    const outs: ReadonlyMap<string, LineOut> = await processor.live(wired?.lines(raw) ?? NOTHING, wired?.looked ?? []);
    // Whoever placed it meanwhile has taken it off its lines.
    if (body === this.body) body.step(wired?.obey(outs) ?? this.resting);
    if (this.measuring.length > 0) this.measure();
    this.seenTicks += 1;
    if (this.seenTicks % SEEN_EVERY_TICKS === 0) this.tell({ told: "seen", ...this.table.pose });
    const said = processor.said();
    if (said.length > 0 && this.socket?.open) this.socket.send(said);
  }

  /** Switches it off. @returns when its processor has ended, and what it holds is kept */
  close(): Promise<void> {
    if (!this.closed) {
      this.closed = true;
      this.stop();
      this.off = this.processor.close();
      this.socket?.terminate();
    }
    return this.off;
  }
}
