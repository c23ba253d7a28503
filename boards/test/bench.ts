// A chip on its bench, as tests drive it: one order, one answer.
import { type ChildProcessWithoutNullStreams, spawn } from "node:child_process";
import { createInterface } from "node:readline";
import { type BoardOrder, type BoardWord, readBoardWord, SerialReader, writeBoardOrder } from "@giddy-pebble/core";
import { buildAvrBoard, buildEmulator, exportMission } from "../src/index.js";
import type { missionOf } from "./support.js";

interface Look {
  readonly out: boolean;
  /** How much of the time the line is high, 0 to 1. */
  readonly share: number;
  /** Its last pulse, microseconds. */
  readonly pulseUs: number;
}

export class Bench {
  private readonly child: ChildProcessWithoutNullStreams;
  private readonly answers: AsyncIterator<string>;
  readonly reader = new SerialReader();

  private constructor(
    program: string,
    elf: string,
    /** Line of each name in pins.h: `MOTOR_PULSE` to its pins. */
    readonly pins: ReadonlyMap<string, readonly string[]>,
    readonly version: number,
  ) {
    this.child = spawn(program, ["atmega328p", elf]);
    this.answers = createInterface({ input: this.child.stdout })[Symbol.asyncIterator]();
  }

  /** Puts a mission on a chip, as it is exported. @param change - of the text of mission.cpp */
  static async with(
    prepared: ReturnType<typeof missionOf>,
    change: (text: string) => string = (text) => text,
  ): Promise<Bench> {
    if (!prepared.program) throw new Error("the mission has errors");
    const { files, problems, version } = await exportMission("avr", prepared.program, prepared.context.robot, "A test");
    if (problems.length > 0) throw new Error(problems.map(({ message }) => message).join(" "));
    const changed = new Map([...files, ["mission.cpp", change(files.get("mission.cpp") ?? "")]]);
    const { elf } = await buildAvrBoard(changed);
    const pins = new Map(
      [...(files.get("pins.h") ?? "").matchAll(/ (\w+)(?:\[\])?(?:\[\d\])?(?: FLASH)? = \{?([^;]*?)\}?;/g)].map(
        ([, name = "", list = ""]) => [name, list.replaceAll(/[{}]/g, "").split(", ")] as const,
      ),
    );
    return new Bench(await buildEmulator("bench"), elf, pins, version);
  }

  private async ask(order: string): Promise<string> {
    this.child.stdin.write(`${order}\n`);
    const { value, done } = await this.answers.next();
    if (done || value === "?") throw new Error(`The bench does not understand "${order}".`);
    return value;
  }

  /** A mission is run by its link, once time goes on: what is looked at before is the chip in reset. */
  private started = false;

  async run(ms: number): Promise<void> {
    if (!this.started) {
      this.started = true;
      // Until its line is ready.
      await this.ask("run 20000");
      await this.send({ kind: "hello" });
      await this.send({ kind: "run", ask: 1, limitTicks: 0 });
    }
    await this.ask(`run ${Math.round(ms * 1000)}`);
  }

  /** On its own, with nobody at the link. */
  async alone(ms: number): Promise<void> {
    this.started = true;
    await this.run(ms);
  }

  async send(order: BoardOrder): Promise<void> {
    await this.sendBytes(writeBoardOrder(order));
  }

  async sendBytes(bytes: Uint8Array): Promise<void> {
    await this.ask(`send ${Buffer.from(bytes).toString("hex")}`);
  }

  async set(pin: string, high: boolean): Promise<void> {
    await this.ask(`set ${pin} ${high ? 1 : 0}`);
  }

  async volts(pin: string, volts: number): Promise<void> {
    await this.ask(`volts ${pin} ${Math.round(volts * 1000)}`);
  }

  /** What the colour sensor sees, each 0 to 1. */
  async colour(light: readonly [number, number, number]): Promise<void> {
    await this.ask(`colour ${light.map((share) => Math.round(65_535 * share)).join(" ")}`);
  }

  async gyro(raw: number): Promise<void> {
    await this.ask(`gyro ${raw}`);
  }

  async echo(trigger: string, echo: string, us: number): Promise<void> {
    await this.ask(`echo ${trigger} ${echo} ${us}`);
  }

  async look(pin: string): Promise<Look> {
    const [way, share, pulse] = (await this.ask(`look ${pin}`)).split(" ");
    return { out: way === "out", share: Number(share), pulseUs: Number(pulse) };
  }

  async free(): Promise<number> {
    return Number(await this.ask("free"));
  }

  async hang(): Promise<void> {
    await this.ask("hang");
  }

  /** What the chip said since it was asked last. */
  async words(): Promise<BoardWord[]> {
    const hex = (await this.ask("serial")).slice(0, -1);
    const frames = this.reader.take(Buffer.from(hex, "hex"));
    return frames.flatMap((frame) => readBoardWord(frame) ?? []);
  }

  /** What a mission said, in words. */
  async serial(): Promise<string[]> {
    return (await this.words()).flatMap((word) =>
      word.kind === "said" ? [`${word.what} ${word.text}`] : word.kind === "ended" ? [`end ${word.why}`] : [],
    );
  }

  /** The nth line of a name in pins.h. */
  pin(name: string, n = 0): string {
    const found = this.pins.get(name)?.[n];
    if (!found || found === "NO_PIN") throw new Error(`${name} ${n} has no line`);
    return found;
  }

  close(): void {
    this.child.stdin.end();
  }
}
