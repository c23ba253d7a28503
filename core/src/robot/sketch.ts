// A small picture of a robot from above, as SVG text: its outline, wheels and sensors to scale, the front at the right.
import { wheelOutline } from "../drives/outline.js";
import { PI } from "../math/trig.js";
import type { Robot } from "./schema.js";

const MARGIN_M = 0.02;
const degrees = (rad: number) => Math.floor((rad * 1800) / PI + 0.5) / 10;
const mm = (metres: number) => Math.floor(metres * 10_000 + 0.5) / 10;

/** @returns the text of an SVG file; lengths in mm, ahead is to the right, left is up */
export function robotSketch(robot: Robot): string {
  const { outlineM } = robot.chassis;
  const wheels = robot.wheels.map(({ xM, yM, diameterM, widthM, aimRad }) => ({
    left: xM - diameterM / 2,
    right: xM + diameterM / 2,
    top: yM + widthM / 2,
    bottom: yM - widthM / 2,
    turn: aimRad === 0 ? "" : ` transform="rotate(${degrees(-aimRad)} ${mm(xM)} ${mm(-yM)})"`,
  }));
  const rims = robot.wheels.flatMap(wheelOutline);
  const sensors = robot.sensors.flatMap((sensor) => ("xM" in sensor ? [[sensor.xM, sensor.yM] as const] : []));
  const xs = [...outlineM.map(([x]) => x), ...rims.map(([x]) => x), ...sensors.map(([x]) => x)];
  const ys = [...outlineM.map(([, y]) => y), ...rims.map(([, y]) => y), ...sensors.map(([, y]) => y)];
  const [left, right] = [Math.min(...xs) - MARGIN_M, Math.max(...xs) + MARGIN_M];
  const [bottom, top] = [Math.min(...ys) - MARGIN_M, Math.max(...ys) + MARGIN_M];
  const box = `${mm(left)} ${mm(-top)} ${mm(right - left)} ${mm(top - bottom)}`;
  const outline = outlineM.map(([x, y]) => `${mm(x)},${mm(-y)}`).join(" ");
  const nose = Math.max(...outlineM.map(([x]) => x));
  return [
    `<svg xmlns="http://www.w3.org/2000/svg" viewBox="${box}">`,
    ...wheels.map(
      (wheel) =>
        `<rect x="${mm(wheel.left)}" y="${mm(-wheel.top)}" width="${mm(wheel.right - wheel.left)}" height="${mm(wheel.top - wheel.bottom)}" rx="4" fill="#1E2B33"${wheel.turn}/>`,
    ),
    `<polygon points="${outline}" fill="#FFFEFB" stroke="#1E2B33" stroke-width="3" stroke-linejoin="round"/>`,
    `<path d="M${mm(nose - 0.012)} 0l-22 -11v22z" fill="#0E6A6B"/>`,
    ...sensors.map(([x, y]) => `<circle cx="${mm(x)}" cy="${mm(-y)}" r="5" fill="#B86E00"/>`),
    "</svg>",
    "",
  ].join("\n");
}
