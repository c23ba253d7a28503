// Basic shapes of SVG as path data, and path data as runs of straight and cubic pieces in field metres.
import svgpath from "svgpath";
import type { Point } from "../../geometry/pose.js";
import { userUnits } from "./style.js";
import type { XmlNode } from "./xml.js";

/** A run of a path: nodes with handles, as curves of a field have them. */
export interface Run {
  readonly nodes: { atM: [number, number]; inM?: [number, number]; outM?: [number, number] }[];
  closed: boolean;
  /** No piece of it is curved. */
  straight: boolean;
}

const SHAPES = ["path", "line", "polyline", "polygon", "rect", "circle", "ellipse"] as const;

export function isShape(name: string): boolean {
  return (SHAPES as readonly string[]).includes(name);
}

/** Path data of a basic shape; "" when it is not drawn. @param perInch - px */
export function pathData(node: XmlNode, perInch: number): string {
  const { name, attributes: a } = node;
  const n = (key: string, otherwise = 0) => userUnits(a[key], otherwise, perInch);
  switch (name) {
    case "path":
      return a.d ?? "";
    case "line":
      return `M${n("x1")} ${n("y1")}L${n("x2")} ${n("y2")}`;
    case "polyline":
    case "polygon": {
      const numbers = (a.points ?? "").match(/[+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?/gi) ?? [];
      const pairs = numbers.slice(0, numbers.length - (numbers.length % 2));
      return pairs.length < 4 ? "" : `M${pairs.join(" ")}${name === "polygon" ? "Z" : ""}`;
    }
    case "rect":
      return rectData(
        n("x"),
        n("y"),
        n("width"),
        n("height"),
        a.rx === undefined ? n("ry") : n("rx"),
        a.ry === undefined ? n("rx") : n("ry"),
      );
    case "circle":
      return roundData(n("cx"), n("cy"), n("r"), n("r"));
    case "ellipse":
      return roundData(n("cx"), n("cy"), n("rx"), n("ry"));
    default:
      return "";
  }
}

function rectData(x: number, y: number, w: number, h: number, roundX: number, roundY: number): string {
  if (!(w > 0 && h > 0)) return "";
  const rx = Math.min(w / 2, Math.max(0, roundX));
  const ry = Math.min(h / 2, Math.max(0, roundY));
  if (rx === 0 || ry === 0) return `M${x} ${y}h${w}v${h}h${-w}Z`;
  const arc = (dx: number, dy: number) => `a${rx} ${ry} 0 0 1 ${dx} ${dy}`;
  return `M${x + rx} ${y}h${w - 2 * rx}${arc(rx, ry)}v${h - 2 * ry}${arc(-rx, ry)}h${2 * rx - w}${arc(-rx, -ry)}v${2 * ry - h}${arc(rx, -ry)}Z`;
}

function roundData(cx: number, cy: number, rx: number, ry: number): string {
  if (!(rx > 0 && ry > 0)) return "";
  return `M${cx + rx} ${cy}A${rx} ${ry} 0 1 1 ${cx - rx} ${cy}A${rx} ${ry} 0 1 1 ${cx + rx} ${cy}Z`;
}

/** Transforms of an element, its own first, then those of what it lies in. */
export type Chain = readonly string[];

function placed(data: string, chain: Chain, toField: readonly number[]): ReturnType<typeof svgpath> {
  let path = svgpath(data).abs().unshort().unarc();
  for (const transform of chain) path = path.transform(transform);
  return path.matrix([...toField]).abs();
}

/** How much longer a length gets by a chain of transforms: the root of the area's factor. */
export function scaleOf(chain: Chain, toField: readonly number[]): number {
  const ends: Point[] = [];
  placed("M0 0L1 0M0 0L0 1", chain, toField).iterate((segment) => {
    ends.push([Number(segment[1]), Number(segment[2])]);
  });
  const [o, x, , y] = ends as [Point, Point, Point, Point];
  const area = (x[0] - o[0]) * (y[1] - o[1]) - (x[1] - o[1]) * (y[0] - o[0]);
  return Math.sqrt(Math.abs(area));
}

const CLOSE_M = 1e-7;

/** @param toField - matrix from user units of the file to metres of the field */
export function runsOf(data: string, chain: Chain, toField: readonly number[]): Run[] {
  const runs: Run[] = [];
  let run: Run | null = null;
  let start: [number, number] = [0, 0];
  const begin = (at: [number, number]): Run => {
    const made: Run = { nodes: [{ atM: at }], closed: false, straight: true };
    runs.push(made);
    return made;
  };
  const near = (a: Point, b: Point) => Math.abs(a[0] - b[0]) + Math.abs(a[1] - b[1]) < CLOSE_M;
  placed(data, chain, toField).iterate((segment, _, x, y) => {
    const [command, ...numbers] = segment;
    const n = numbers as number[];
    if (command === "M") {
      start = [n[0] as number, n[1] as number];
      run = null;
      return;
    }
    if (command === "Z" || command === "z") {
      if (!run) return;
      run.closed = true;
      const last = run.nodes.at(-1) as Run["nodes"][number];
      const first = run.nodes[0] as Run["nodes"][number];
      if (run.nodes.length > 1 && near(last.atM, first.atM)) {
        if (last.inM) first.inM = last.inM;
        run.nodes.pop();
      }
      run = null;
      return;
    }
    run ??= begin(near([x, y], start) ? [start[0], start[1]] : [x, y]);
    const last = run.nodes.at(-1) as Run["nodes"][number];
    if (command === "L") run.nodes.push({ atM: [n[0] as number, n[1] as number] });
    else if (command === "H") run.nodes.push({ atM: [n[0] as number, last.atM[1]] });
    else if (command === "V") run.nodes.push({ atM: [last.atM[0], n[0] as number] });
    else if (command === "C") {
      last.outM = [n[0] as number, n[1] as number];
      run.nodes.push({ atM: [n[4] as number, n[5] as number], inM: [n[2] as number, n[3] as number] });
      run.straight = false;
    } else if (command === "Q") {
      // A quadratic piece as a cubic one: handles two thirds of the way to its control point.
      const [qx, qy, ex, ey] = n as [number, number, number, number];
      const [sx, sy] = last.atM;
      last.outM = [sx + (2 / 3) * (qx - sx), sy + (2 / 3) * (qy - sy)];
      run.nodes.push({ atM: [ex, ey], inM: [ex + (2 / 3) * (qx - ex), ey + (2 / 3) * (qy - ey)] });
      run.straight = false;
    }
  });
  return runs.filter(({ nodes }) => nodes.length > 1);
}
