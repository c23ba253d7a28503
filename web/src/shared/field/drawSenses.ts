// What a robot's sensors tell at one moment, drawn on the field: the eye's beam to what it sees, the floor spots in
// the light they read, a pressed bumper.
import { floorOffsets, type Pose, type Robot } from "@giddy-pebble/core";
import type { Pen } from "./drawField.js";

/** A reading by its name at the moment drawn; null when the run does not tell. */
type ReadingAt = (id: string) => number | null;

export function drawSenses(pen: Pen, robot: Robot, pose: Pose, reading: ReadingAt): void {
  const { context, view, colours } = pen;
  const c = Math.cos(pose.headingRad);
  const s = Math.sin(pose.headingRad);
  const place = (x: number, y: number): [number, number] => [
    view.originX + (pose.xM + c * x - s * y) * view.scale,
    view.originY - (pose.yM + s * x + c * y) * view.scale,
  ];
  context.save();
  for (const sensor of robot.sensors) {
    if (sensor.kind === "eye") {
      const distance = reading(`${sensor.name}.distance`);
      if (distance === null) continue;
      const seen = reading(`${sensor.name}.seen`) !== 0;
      const head = sensor.head === null ? 0 : (reading(`${sensor.head}.angle`) ?? 0);
      const middle = pose.headingRad + sensor.aimRad + head;
      const [x, y] = place(sensor.xM, sensor.yM);
      const reach = (seen ? distance : sensor.farM) * view.scale;
      context.beginPath();
      context.moveTo(x, y);
      context.arc(x, y, reach, -middle - sensor.coneRad / 2, -middle + sensor.coneRad / 2);
      context.closePath();
      context.fillStyle = colours.amber ?? "";
      context.globalAlpha = seen ? 0.2 : 0.07;
      context.fill();
      if (!seen) continue;
      context.beginPath();
      context.arc(x, y, reach, -middle - sensor.coneRad / 2, -middle + sensor.coneRad / 2);
      context.globalAlpha = 0.9;
      context.lineWidth = 2;
      context.strokeStyle = colours.amber ?? "";
      context.stroke();
    } else if (sensor.kind === "floor") {
      floorOffsets(sensor.layout, sensor.count, sensor.spacingM).forEach((across, i) => {
        const spot =
          sensor.layout === "single"
            ? "."
            : sensor.layout === "pair"
              ? i === 0
                ? ".left."
                : ".right."
              : `[${i + 1}].`;
        const light = reading(`${sensor.name}${spot}light`);
        if (light === null) return;
        const [x, y] = place(sensor.xM, sensor.yM + across);
        const grey = Math.round(255 * Math.max(0, Math.min(1, light)));
        context.beginPath();
        context.arc(x, y, Math.max(3, (sensor.spotM / 2) * view.scale), 0, 2 * Math.PI);
        context.globalAlpha = 1;
        context.fillStyle = `rgb(${grey}, ${grey}, ${grey})`;
        context.fill();
        context.lineWidth = light < sensor.dark.value ? 2 : 1;
        context.strokeStyle = colours.rust ?? "";
        context.stroke();
      });
    } else if (sensor.kind === "bumper" && reading(`${sensor.name}.pressed`) === 1) {
      const [x, y] = place(sensor.xM, sensor.yM);
      context.globalAlpha = 1;
      context.beginPath();
      context.arc(x, y, 7, 0, 2 * Math.PI);
      context.lineWidth = 3;
      context.strokeStyle = colours.rust ?? "";
      context.stroke();
    }
  }
  context.restore();
}
