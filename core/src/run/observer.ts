// Who looks at a run: one that sees everything from above, as in a rehearsal, or the robot itself, by its own count.
import type { Brain } from "../brain/brain.js";
import type { BeginPlace } from "../field/schema.js";
import { loadOutline, type PlacedLoad } from "../field/zones.js";
import { composePoses, type Pose } from "../geometry/pose.js";
import type { Body } from "../physics/body.js";
import type { SimulatedBody } from "../simulate/body.js";
import { robotPose } from "../simulate/fromRobot.js";
import { HAND_COLUMNS, handRow } from "../trials/recordedHands.js";
import { type ColumnInfo, loadColumns, type TraceRecorder } from "../trials/trace.js";

export interface Observer {
  /** Where the robot stands on the field. */
  pose(): Pose;
  /** Where the loads stand; empty where nobody sees them. */
  loads(): PlacedLoad[];
  /** Tick at which it tipped; null when it did not, or nobody can tell. */
  readonly tippedAt: number | null;
  /** Words between "the goal was not met" and what failed. */
  readonly byWhom: string;
  /** Columns it adds to a trace, after those of the sensors. */
  readonly columns: readonly ColumnInfo[];
  /** Speed of a side's wheel, m/s. */
  speedMS(side: 0 | 1): number;
  readonly packVolts: number;
  /** Writes its columns from `at` on. */
  write(recorder: TraceRecorder, at: number): void;
}

/** Sees everything as it is. */
export class FromAbove implements Observer {
  readonly byWhom = "";
  readonly columns: readonly ColumnInfo[];

  constructor(private readonly body: SimulatedBody) {
    this.columns = body.field.loads.flatMap((load) => loadColumns(load.name));
  }

  pose(): Pose {
    return robotPose(this.body.robot, this.body.world);
  }

  loads(): PlacedLoad[] {
    const { world, field } = this.body;
    return field.loads.map((load, i) => {
      const body = world.bodies[i + 1] as Body;
      return {
        name: load.name,
        outlineM: loadOutline(load),
        pose: { xM: body.xM, yM: body.yM, headingRad: body.headingRad },
        upright: !body.tipped,
        held: body.lifted,
      };
    });
  }

  get tippedAt(): number | null {
    return this.body.tippedAt;
  }

  speedMS(side: 0 | 1): number {
    const wheel = this.body.world.wheels[side];
    return wheel ? wheel.spinRadS * wheel.spec.radiusM : 0;
  }

  get packVolts(): number {
    return this.body.world.packVolts;
  }

  write(recorder: TraceRecorder, at: number): void {
    const { bodies } = this.body.world;
    for (let i = 1; i < bodies.length; i += 1) {
      const load = bodies[i] as Body;
      recorder.put(at + 3 * i - 3, load.xM);
      recorder.put(at + 3 * i - 2, load.yM);
      recorder.put(at + 3 * i - 1, load.headingRad);
    }
  }
}

/** What a robot measures of itself beyond the columns of a rehearsal. */
const COUNT_COLUMNS: readonly ColumnInfo[] = [
  { id: "leftCounts", quantity: "left encoder counts", unit: "1" },
  { id: "rightCounts", quantity: "right encoder counts", unit: "1" },
];

/** Where a robot believes to be: its own odometry, laid onto the place it was put down at. */
function reckonedPose(begin: BeginPlace, brain: Pick<Brain, "drive">): Pose {
  const { xM, yM, headingRad } = brain.drive;
  return composePoses(begin, { xM, yM, headingRad });
}

/** Knows what the robot knows: loads are not seen. */
export class ByOwnCount implements Observer {
  readonly byWhom = ", by the robot's own count";
  readonly tippedAt = null;
  readonly columns: readonly ColumnInfo[];

  constructor(
    private readonly body: SimulatedBody,
    private readonly brain: () => Brain,
    private readonly begin: BeginPlace,
    private readonly handsOver: boolean,
  ) {
    this.columns = [...COUNT_COLUMNS, ...(handsOver ? HAND_COLUMNS : [])];
  }

  pose(): Pose {
    return reckonedPose(this.begin, this.brain());
  }

  loads(): PlacedLoad[] {
    return [];
  }

  speedMS(side: 0 | 1): number {
    const { drive } = this.brain();
    return (side === 0 ? drive.left : drive.right).speedMS;
  }

  get packVolts(): number {
    const brain = this.brain();
    return brain.tick === 0 ? this.body.world.packVolts : brain.drive.packVolts;
  }

  write(recorder: TraceRecorder, at: number): void {
    const brain = this.brain();
    recorder.put(at, brain.forwardCounts(this.body.senses.counts(0), 0));
    recorder.put(at + 1, brain.forwardCounts(this.body.senses.counts(1), 1));
    if (!this.handsOver) return;
    const row = handRow(brain.handedOver ? brain.handset : null);
    for (let i = 0; i < row.length; i += 1) recorder.put(at + 2 + i, row[i] as number);
  }
}
