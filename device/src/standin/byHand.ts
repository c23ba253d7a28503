// Driving by hand: each side turns at a share of the robot's top speed until told otherwise.
import type { DriveControl, Motion } from "@giddy-pebble/core";

export class ByHand implements Motion {
  readonly expectedSec = null;
  readonly timed = false;
  /** Shares of the top speed, -1..1. */
  left = 0;
  right = 0;

  tick(drive: DriveControl): boolean {
    if (this.left === 0 && this.right === 0) drive.release("brake");
    else {
      const most = drive.model.topSpeedMS;
      drive.sides(this.left * most, this.right * most, 0, 0, 1);
    }
    return false;
  }
}

/** A program that leaves the wheels alone. */
export const HAND_PROGRAM = "cairn 1\nmission\n  repeat\n    wait 1 s\n";
