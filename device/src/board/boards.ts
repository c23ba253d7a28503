// The boards of this computer: each is switched on when its line is opened for the first time, and keeps what was put on it.
import path from "node:path";
import type { Clock } from "../host/clock.js";
import { type FrameSocket, holding } from "../host/frameSocket.js";
import type { RobotPlan } from "../host/seat.js";
import { AvrChip } from "./avrChip.js";
import type { Processor } from "./processor.js";
import { PythonBoard } from "./pythonBoard.js";
import { StandInBoard } from "./standInBoard.js";

export type BoardKind = StandInBoard["kind"];

/** Boards that are switched on at a time. */
const MOST_BOARDS = 6;
/** Longest reason that a closed connection may give, bytes (RFC 6455, section 5.5). */
const MOST_REASON = 120;
const TRY_AGAIN = 1013;

export class Boards {
  private readonly on = new Map<string, StandInBoard>();
  private readonly starting = new Map<string, Promise<StandInBoard>>();
  private closed = false;

  constructor(
    private readonly clock: Clock,
    private readonly tell: (sentence: string) => void,
  ) {}

  /** Opens the line to a board of a robot; what keeps it from that is said in the close. */
  async open(plan: RobotPlan, kind: BoardKind, line: FrameSocket): Promise<void> {
    // What is said to it before it is on, it hears then.
    const socket = holding(line);
    try {
      const board = await this.board(plan, kind);
      // Who left meanwhile does not keep the line.
      if (!socket.open) return;
      if (!board.open(socket)) socket.close(TRY_AGAIN, "Another window has this board's line. Unlink it there.");
    } catch (error) {
      const why = error instanceof Error ? error.message : String(error);
      socket.close(TRY_AGAIN, why.slice(0, MOST_REASON));
    }
  }

  private board(plan: RobotPlan, kind: BoardKind): Promise<StandInBoard> {
    const key = `${plan.id} ${kind}`;
    const known = this.on.get(key);
    if (known) return Promise.resolve(known);
    let started = this.starting.get(key);
    if (!started) {
      started = this.start(plan, kind, key).finally(() => this.starting.delete(key));
      this.starting.set(key, started);
    }
    return started;
  }

  private async start(plan: RobotPlan, kind: BoardKind, key: string): Promise<StandInBoard> {
    this.makeRoom();
    const processor = await startProcessor(plan, kind);
    if (this.closed) {
      await processor.close();
      throw new Error("The boards of this computer are switched off.");
    }
    const board = new StandInBoard(plan.robot, plan.seed, kind, processor, this.clock, (why) => {
      this.on.delete(key);
      this.tell(`The board of ${plan.robot.name} stopped: ${why}`);
    });
    this.on.set(key, board);
    return board;
  }

  /** Switches off the one that nobody has looked at for longest. @throws Error when all are in use */
  private makeRoom(): void {
    if (this.on.size < MOST_BOARDS) return;
    const idle = [...this.on].find(([, board]) => !board.inUse);
    if (!idle) throw new Error(`${MOST_BOARDS} boards are in use on this computer. Unlink one first.`);
    void idle[1].close();
    this.on.delete(idle[0]);
  }

  /** Switches off the boards of a robot that is built anew. */
  drop(robot: string): void {
    for (const [key, board] of this.on) {
      if (!key.startsWith(`${robot} `)) continue;
      void board.close();
      this.on.delete(key);
    }
  }

  /** @returns when all are off, and what they hold is kept */
  async close(): Promise<void> {
    this.closed = true;
    const all = [...this.on.values()];
    this.on.clear();
    await Promise.all(all.map((board) => board.close()));
  }
}

function startProcessor(plan: RobotPlan, kind: BoardKind): Promise<Processor> {
  // Beside the robot's shelf.
  const memory = path.join(path.dirname(plan.shelf), `${plan.id}.${kind}.memory`);
  return kind === "avr" ? AvrChip.start(memory) : PythonBoard.start(memory);
}
