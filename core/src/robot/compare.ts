// Two revisions of a robot side by side: only what differs, in people's words.

import { type Known, knownSchema } from "../units/known.js";
import { shownIn } from "../units/shown.js";
import { partsOf, type RobotPart } from "./parts.js";
import { QUANTITIES, type ShownUnit, shownQuantity, withError } from "./quantities.js";
import type { Robot } from "./schema.js";

export interface Difference {
  readonly part: string;
  readonly label: string;
  /** Empty where the part was not there. */
  readonly before: string;
  readonly after: string;
}

function flatten(value: unknown, path: string, into: Map<string, unknown>): void {
  if (Array.isArray(value)) {
    if (value.every((item) => typeof item !== "object" || item === null || Array.isArray(item)))
      into.set(path, JSON.stringify(value));
    else for (const [i, item] of value.entries()) flatten(item, `${path}.${i}`, into);
  } else if (isKnown(value)) into.set(path, value);
  else if (typeof value === "object" && value !== null) {
    for (const [key, inner] of Object.entries(value)) flatten(inner, path === "" ? key : `${path}.${key}`, into);
  } else into.set(path, value);
}

function isKnown(value: unknown): value is Known {
  return (
    typeof value === "object" && value !== null && "standardError" in value && knownSchema.safeParse(value).success
  );
}

const PLAIN = shownIn("", 4);

/** "138.4 ± 0.4 mm, measured, 4 rows"; the value alone where nobody measured. */
function knownWords({ value, standardError, source, count, method }: Known, shown: ShownUnit): string {
  const number = withError(value, standardError, shown);
  if (source === "drawing") return `${number}, as drawn`;
  const rows = count > 0 ? `, ${count} ${count === 1 ? "row" : "rows"}` : "";
  return `${number}, ${source}${rows}${method === "" ? "" : `, ${method}`}`;
}

function words(part: RobotPart | undefined, path: string, value: unknown): { label: string; shown: string } {
  const info = QUANTITIES[part?.kind ?? ""]?.find((q) => q.path === path);
  const label = info?.label ?? path.replaceAll(".", " ");
  if (value === undefined) return { label, shown: "" };
  if (isKnown(value)) return { label, shown: knownWords(value, info?.shown ?? PLAIN) };
  if (info && typeof value === "number") return { label, shown: shownQuantity(value, info.shown) };
  return { label, shown: value === null ? (info?.found ? "not measured" : "none") : String(value) };
}

function differences(name: string, before: RobotPart | undefined, after: RobotPart | undefined): Difference[] {
  if (!before || !after)
    return [
      { part: name, label: after ? "added" : "removed", before: before ? "fitted" : "", after: after ? "fitted" : "" },
    ];
  const a = new Map<string, unknown>();
  const b = new Map<string, unknown>();
  flatten(before.value, "", a);
  flatten(after.value, "", b);
  return [...new Set([...a.keys(), ...b.keys()])].flatMap((path) => {
    if (same(a.get(path), b.get(path))) return [];
    const old = words(before, path, a.get(path));
    const now = words(after, path, b.get(path));
    return [{ part: name, label: now.label, before: old.shown, after: now.shown }];
  });
}

function same(a: unknown, b: unknown): boolean {
  return a === b || (isKnown(a) && isKnown(b) && JSON.stringify(a) === JSON.stringify(b));
}

/** Everything that differs between two robots, part by part. */
export function compareRobots(before: Robot, after: Robot): Difference[] {
  const old = new Map(partsOf(before).map((part) => [part.ref, part]));
  const now = new Map(partsOf(after).map((part) => [part.ref, part]));
  const list = [...new Set([...old.keys(), ...now.keys()])].flatMap((ref) =>
    differences(ref, old.get(ref), now.get(ref)),
  );
  const wires = (robot: Robot) => robot.wiring.map((w) => `${w.part}.${w.terminal} → ${w.to}`);
  const gone = wires(before).filter((wire) => !wires(after).includes(wire));
  const come = wires(after).filter((wire) => !wires(before).includes(wire));
  const plain = (label: string, from: string, to: string): Difference[] =>
    from === to ? [] : [{ part: "robot", label, before: from, after: to }];
  return [
    ...plain("name", before.name, after.name),
    ...plain("about", before.about, after.about),
    ...list,
    ...gone.map((wire) => ({ part: "wiring", label: "wire", before: wire, after: "" })),
    ...come.map((wire) => ({ part: "wiring", label: "wire", before: "", after: wire })),
  ];
}
