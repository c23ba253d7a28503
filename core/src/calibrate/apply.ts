// A run of a linked robot as a row, a typed number checked, and an estimate put into the robot as knowns.

import { wrapAngle } from "../geometry/pose.js";
import { replaceAt } from "../robot/edits.js";
import { findPart } from "../robot/parts.js";
import type { Robot } from "../robot/schema.js";
import type { Trace } from "../trials/trace.js";
import { drawnKnown, type Known } from "../units/known.js";
import type { Column, Estimate, KnownEdit, Measured, Procedure, TableRow, Taped } from "./procedure.js";
import { median } from "./statistics.js";

/** What a run told, with where the tape found the robot after it, seen from where it found it before. */
export function measuredOf(
  run: {
    readonly summary: { readonly notes: readonly { readonly name: string; readonly value: number | string }[] };
    readonly trace: Trace;
  },
  before: Taped,
  after: Taped,
  packVolts: number | null,
): Measured {
  const { notes } = run.summary;
  return {
    notes: new Map(
      notes.flatMap(({ name, value }): [string, number][] => (typeof value === "number" ? [[name, value]] : [])),
    ),
    tape: {
      alongM: after.alongM - before.alongM,
      asideM: after.asideM - before.asideM,
      headingRad: wrapAngle(after.headingRad - before.headingRad),
    },
    trace: run.trace,
    packVolts,
  };
}

/** A row of what a run told; columns it does not tell stay empty for a person to type. */
export function rowOfRun(procedure: Procedure, robot: Robot, measured: Measured, index: number): TableRow {
  const values = Object.fromEntries(
    procedure.columns(robot).map((column) => [column.id, column.from?.(measured, index) ?? null]),
  );
  const recorded = procedure.record?.(robot, measured);
  return { values, struck: false, ...(recorded ? { recorded } : {}) };
}

/**
 * Why a typed value cannot be, or should be looked at again.
 * @param others - the same column of the other rows
 * @returns null when nothing speaks against it
 */
export function doubtOf(
  column: Column,
  value: number,
  others: readonly number[],
): { readonly refused: boolean; readonly why: string } | null {
  const shown = (si: number) => `${(si * column.shown.perSi).toFixed(column.shown.digits)} ${column.shown.unit}`.trim();
  if (column.least !== undefined && value < column.least)
    return { refused: true, why: `"${column.label}" is at least ${shown(column.least)}.` };
  if (column.most !== undefined && value > column.most)
    return { refused: true, why: `"${column.label}" is at most ${shown(column.most)}.` };
  if (others.length < 2) return null;
  const usual = usualSize(column, others);
  if (Math.abs(value) <= 10 * usual) return null;
  return { refused: false, why: `This is more than ten times the other rows (${shown(usual)}). Is the unit right?` };
}

/** Size of the other rows of a column; of those that scatter about nothing it is the largest, and some steps of the last digit. */
function usualSize({ shown }: Column, others: readonly number[]): number {
  const sizes = others.map(Math.abs);
  const oneSided = others.every((value) => value > 0) || others.every((value) => value < 0);
  let step = 5 / shown.perSi;
  for (let i = 0; i < shown.digits; i += 1) step /= 10;
  return oneSided ? Math.abs(median(others)) : Math.max(step, ...sizes);
}

export interface Applied {
  readonly method: string;
  readonly conditions: string;
  /** ISO 8601. */
  readonly measuredAt: string;
  readonly count: number;
}

function known(before: Known, edit: KnownEdit, how: Applied): Known {
  return {
    ...before,
    value: edit.value,
    standardError: edit.standardError,
    count: how.count,
    method: how.method,
    conditions: how.conditions,
    measuredAt: how.measuredAt,
    source: "measured",
  };
}

/** The robot with an estimate's knowns in force. Paths through parts it does not have are left alone. */
export function applyEstimate(robot: Robot, edits: readonly KnownEdit[], how: Applied): Robot {
  return edits.reduce((now, edit) => {
    // Placing is the robot's own known, not a part's.
    const start = edit.ref === "placement" ? ["placement"] : findPart(now, edit.ref)?.path;
    if (!start) return now;
    const path = [...start, ...edit.path.split(".")];
    const before = path.reduce<unknown>((at, key) => (at as Record<string, unknown> | null)?.[key as string], now);
    // Some knowns no drawing gives: they begin with the first measurement.
    if (before === null || (before === undefined && edit.path.startsWith("references.")))
      return replaceAt(now, path, known(drawnKnown(0), edit, how));
    return typeof before === "object" && before !== null && "standardError" in before
      ? replaceAt(now, path, known(before as Known, edit, how))
      : now;
  }, robot);
}

/** Rows behind an estimate. */
export function countOf(estimate: Estimate): number {
  return estimate.ok ? Math.max(0, ...estimate.results.map(({ estimate: { count } }) => count)) : 0;
}
