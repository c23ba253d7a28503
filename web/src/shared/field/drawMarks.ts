// Marks that runs and missions leave on the field: places of paths, and where the robot touched something.
import type { Pose, Touch } from "@giddy-pebble/core";
import type { Pen } from "./drawField.js";

/** Places of a path, from the begin place: small squares in order, joined by a thin line. */
export function drawPlaces(
  { context, view, colours }: Pen,
  begin: Pose,
  places: readonly (readonly [number, number])[],
): void {
  const c = Math.cos(begin.headingRad);
  const s = Math.sin(begin.headingRad);
  const points = places.map(([x, y]) => [
    view.originX + (begin.xM + c * x - s * y) * view.scale,
    view.originY - (begin.yM + s * x + c * y) * view.scale,
  ]) as [number, number][];
  context.save();
  context.strokeStyle = colours.moss ?? colours.quiet ?? "";
  context.setLineDash([2, 4]);
  context.lineWidth = 1.5;
  context.beginPath();
  points.forEach(([x, y], i) => {
    if (i === 0) context.moveTo(x, y);
    else context.lineTo(x, y);
  });
  context.stroke();
  context.setLineDash([]);
  for (const [x, y] of points) {
    context.fillStyle = colours.sheet ?? "";
    context.fillRect(x - 4, y - 4, 8, 8);
    context.strokeRect(x - 4, y - 4, 8, 8);
  }
  context.restore();
}

/** Where something was touched: a cross of strokes that do not meet, larger the harder it was. */
export function drawTouches({ context, view, colours }: Pen, touches: readonly Touch[]): void {
  context.save();
  context.lineCap = "round";
  for (const { xM, yM, hardestN } of touches) {
    const x = view.originX + xM * view.scale;
    const y = view.originY - yM * view.scale;
    const size = Math.min(11, 5 + hardestN / 6);
    for (const [colour, width] of [
      [colours.sheet ?? "", 5],
      [colours.rust ?? "", 2.2],
    ] as const) {
      context.strokeStyle = colour;
      context.lineWidth = width;
      context.beginPath();
      for (const [dx, dy] of [
        [1, 1],
        [1, -1],
        [-1, 1],
        [-1, -1],
      ] as const) {
        context.moveTo(x + dx * 2.5, y + dy * 2.5);
        context.lineTo(x + dx * size, y + dy * size);
      }
      context.stroke();
    }
  }
  context.restore();
}
