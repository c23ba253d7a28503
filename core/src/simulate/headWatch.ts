// When a head with a distance sensor turned and stood still, and when its first ping after that was sent and heard.
import type { Robot } from "../robot/schema.js";
import type { TraceEvent } from "../trials/trace.js";
import type { Fittings } from "./fittings.js";
import type { RobotSenses } from "./senses.js";

/** A head that never rests is no news after so many events. */
const MOST_EVENTS = 4000;

/** Kinds of its events; `stepId` names the head, or the sensor for the latter two. */
export const HEAD_EVENTS = { turns: "head turns", still: "head still", ping: "ping", heard: "heard" } as const;

interface Watched {
  readonly head: string;
  readonly sensor: string;
  still: boolean;
  pings: number;
  /** What comes next since the head last turned. */
  waits: "nothing" | "ping" | "echo";
}

export class HeadWatch {
  readonly events: TraceEvent[] = [];
  private readonly watched: Watched[];

  constructor(
    robot: Robot,
    private readonly senses: RobotSenses,
    private readonly fittings: Fittings,
  ) {
    this.watched = robot.sensors.flatMap((sensor): Watched[] =>
      sensor.kind === "eye" && sensor.head !== null
        ? [{ head: sensor.head, sensor: sensor.name, still: true, pings: 0, waits: "nothing" }]
        : [],
    );
  }

  /** Once a tick, after the sensors. */
  tick(tick: number): void {
    if (this.events.length >= MOST_EVENTS) return;
    for (const one of this.watched) {
      const servo = this.fittings.servo(one.head);
      const eye = this.senses.eyes.get(one.sensor);
      if (!servo || !eye) continue;
      if (servo.settled !== one.still) {
        one.still = servo.settled;
        if (one.still) one.waits = "ping";
        this.events.push({
          tick,
          kind: one.still ? HEAD_EVENTS.still : HEAD_EVENTS.turns,
          stepId: one.head,
          data: servo.angleRad,
        });
      }
      if (one.waits === "echo" && eye.ageTicks === 0) {
        one.waits = "nothing";
        this.events.push({
          tick,
          kind: HEAD_EVENTS.heard,
          stepId: one.sensor,
          data: eye.seen ? eye.distanceM : "nothing",
        });
      }
      if (one.waits === "ping" && one.still && eye.pings !== one.pings) {
        one.waits = "echo";
        this.events.push({ tick, kind: HEAD_EVENTS.ping, stepId: one.sensor, data: servo.angleRad });
      }
      one.pings = eye.pings;
    }
  }
}
