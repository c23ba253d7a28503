// Where a robot lives: in this thread (for tests that move its time by hand) or in a thread of its own.
import type { Robot } from "@giddy-pebble/core";
import type { WebSocket } from "ws";
import { StandIn } from "../standin/standIn.js";
import type { Clock } from "./clock.js";
import { webFrameSocket } from "./frameSocket.js";
import { RobotLink } from "./link.js";
import { RobotHost } from "./robotHost.js";
import { Shelf } from "./shelf.js";

/** What the list of robots says of one. */
export interface RobotInfo {
  readonly id: string;
  readonly name: string;
  readonly simulated: true;
  readonly doing: StandIn["doing"];
  readonly packVolts: number;
}

/** What a robot is made from. */
export interface RobotPlan {
  readonly id: string;
  readonly robot: Robot;
  readonly seed: number;
  /** Folder of its shelf. */
  readonly shelf: string;
}

export interface Seat {
  readonly plan: RobotPlan;
  readonly info: RobotInfo;
  /** Connections, from their first byte on. */
  readonly connections: number;
  attach(web: WebSocket): void;
  /** Ends it: links are closed, what it writes is whole. */
  dispose(): Promise<void>;
}

export function infoOf(host: RobotHost): RobotInfo {
  const { id, standIn } = host;
  return { id, name: standIn.built.name, simulated: true, doing: standIn.doing, packVolts: standIn.packVolts };
}

export class LocalSeat implements Seat {
  readonly host: RobotHost;
  private readonly open = new Set<WebSocket>();

  constructor(
    readonly plan: RobotPlan,
    private readonly clock: Clock,
  ) {
    this.host = new RobotHost(plan.id, new StandIn(plan.robot, plan.seed), new Shelf(plan.shelf), clock);
  }

  get info(): RobotInfo {
    return infoOf(this.host);
  }

  get connections(): number {
    return this.open.size;
  }

  attach(web: WebSocket): void {
    this.open.add(web);
    web.on("close", () => this.open.delete(web));
    new RobotLink(webFrameSocket(web), this.host, this.clock);
  }

  dispose(): Promise<void> {
    this.host.dispose();
    for (const web of this.open) web.terminate();
    return Promise.resolve();
  }
}
