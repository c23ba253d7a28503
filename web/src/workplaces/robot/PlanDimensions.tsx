// Dimension lines of the plan, each with the number it edits.
import {
  hasPlace,
  leadWheel,
  movePart,
  type Robot,
  type RobotPart,
  setPartValue,
  sizeChassis,
} from "@giddy-pebble/core";
import { Dimension } from "./Dimension.js";
import type { DrawingWindow, Fit } from "./geometry.js";
import { change } from "./store.js";

/** Dimension lines of what is selected; the track width of the drive stands always. */
export function PlanDimensions({
  robot,
  part,
  window,
  fit,
  mirror,
  narrow,
}: {
  robot: Robot;
  part: RobotPart | null;
  window: DrawingWindow;
  fit: Fit;
  mirror: boolean;
  /** There is room for the numbers of what is selected, and no more. */
  narrow: boolean;
}) {
  const toX = (x: number) => fit.left + (x * 1000 - window.x) * fit.scale;
  const toY = (y: number) => fit.top + (-y * 1000 - window.y) * fit.scale;
  const left = leadWheel(robot, "left")?.wheel;
  const right = leadWheel(robot, "right")?.wheel;
  const lines = [];
  if (left && right && (!narrow || part?.kind === "drive")) {
    const span = left.yM - right.yM;
    const rear = Math.min(...robot.chassis.outlineM.map(([x]) => x), left.xM - left.diameterM / 2);
    lines.push(
      <Dimension
        key="track"
        label="Track width, drawn"
        caption="track width"
        x1={toX(rear) - 30}
        y1={toY(left.yM)}
        x2={toX(rear) - 30}
        y2={toY(right.yM)}
        valueM={span}
        onChange={(value) => {
          const wider = movePart(robot, left.name, left.xM, value / 2, false);
          change(movePart(wider, right.name, right.xM, -value / 2, false), "track width", "dimension track");
        }}
      />,
    );
  }
  if (part?.ref === "chassis") {
    const xs = robot.chassis.outlineM.map(([x]) => x);
    const ys = robot.chassis.outlineM.map(([, y]) => y);
    const [low, high, bottom, top] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
    const level = fit.top + window.height * fit.scale + (narrow ? 50 : -16);
    const beside = toX(high) + (narrow ? 34 : 96);
    lines.push(
      <Dimension
        key="length"
        label="Length of the chassis"
        caption="length"
        x1={toX(low)}
        y1={level}
        x2={toX(high)}
        y2={level}
        valueM={high - low}
        onChange={(value) => change(sizeChassis(robot, value, top - bottom), "length", "dimension length")}
      />,
      <Dimension
        key="width"
        after
        label="Width of the chassis"
        caption="width"
        x1={beside}
        y1={toY(top)}
        x2={beside}
        y2={toY(bottom)}
        valueM={top - bottom}
        onChange={(value) => change(sizeChassis(robot, high - low, value), "width", "dimension width")}
      />,
    );
  }
  if (part && hasPlace(part)) {
    const { xM, yM } = part.value as { xM: number; yM: number };
    if (part.kind === "wheel") {
      const wheel = robot.wheels.find((candidate) => candidate.name === part.ref);
      if (wheel) {
        const out = wheel.yM > 0 ? wheel.yM + wheel.widthM / 2 : wheel.yM - wheel.widthM / 2;
        const y = toY(out) + (wheel.yM > 0 ? -26 : 26);
        lines.push(
          <Dimension
            key="diameter"
            label="Wheel diameter"
            caption="wheel"
            x1={toX(xM - wheel.diameterM / 2)}
            y1={y}
            x2={toX(xM + wheel.diameterM / 2)}
            y2={y}
            valueM={wheel.diameterM}
            onChange={(value) =>
              change(setPartValue(robot, part.ref, "diameterM", value, mirror), "wheel diameter", "dimension diameter")
            }
          />,
        );
      }
    } else {
      const y = window.y + window.height - 14;
      const level = fit.top + (y - window.y) * fit.scale;
      if (Math.abs(xM) > 1e-6)
        lines.push(
          <Dimension
            key="x"
            label="Ahead of the axle"
            caption=""
            x1={toX(0)}
            y1={level}
            x2={toX(xM)}
            y2={level}
            valueM={xM}
            onChange={(value) =>
              change(movePart(robot, part.ref, value, yM, mirror), `moving ${part.ref}`, "dimension x")
            }
          />,
        );
      if (Math.abs(yM) > 1e-6)
        lines.push(
          <Dimension
            key="y"
            after
            label="To the left of the middle"
            caption=""
            x1={toX(xM) + 26}
            y1={toY(0)}
            x2={toX(xM) + 26}
            y2={toY(yM)}
            valueM={yM}
            onChange={(value) =>
              change(movePart(robot, part.ref, xM, value, mirror), `moving ${part.ref}`, "dimension y")
            }
          />,
        );
    }
  }
  return <>{lines}</>;
}
