// Advice and refusals that look at a mission as a whole: circles of calls, signals nobody sends or hears, comparisons
// with what a sensor cannot read.
import type { Robot } from "../robot/schema.js";
import { plainDigits } from "../units/quantity.js";
import { literalValue } from "./expressionKinds.js";
import { neverHeard, neverSent, outsideRange, type Problem, recursion, type Span } from "./problems.js";
import { callsOf, type Symbols, walk } from "./symbols.js";
import { bodiesOf, type Expression, expressionsOf, type Mission, partsOfExpression } from "./tree.js";

type Report = (problem: Problem) => void;

/** Signals that are heard and never sent, or sent and never heard. */
export function checkSignals(mission: Mission, report: Report): void {
  const sent = new Map<string, Span>();
  const heard = new Map<string, Span>();
  const listen = (expression: Expression): void => {
    if (expression.type === "heard" && !heard.has(expression.signal)) heard.set(expression.signal, expression);
    for (const inner of partsOfExpression(expression)) listen(inner);
  };
  for (const body of bodiesOf(mission)) {
    walk(body, (statement) => {
      if (statement.type === "send" && !sent.has(statement.signal.name))
        sent.set(statement.signal.name, statement.signal);
      for (const expression of expressionsOf(statement)) listen(expression);
    });
  }
  for (const [name, at] of heard) if (!sent.has(name)) report(neverSent(at, name));
  for (const [name, at] of sent) if (!heard.has(name)) report(neverHeard(at, name));
}

/** Routines that call themselves, over others or at once. */
export function checkRecursion(symbols: Symbols, report: Report): void {
  const calls = new Map<string, { name: string; start: number; end: number }[]>();
  for (const [name, symbol] of symbols.routines) {
    calls.set(name, callsOf(symbol.routine.body));
  }
  const settled = new Set<string>();
  const visit = (name: string, path: readonly string[]): void => {
    for (const call of calls.get(name) ?? []) {
      const loop = path.indexOf(call.name);
      if (loop !== -1) report(recursion(call, [...path.slice(loop), call.name]));
      else if (!settled.has(call.name)) visit(call.name, [...path, call.name]);
    }
    settled.add(name);
  };
  for (const name of calls.keys()) if (!settled.has(name)) visit(name, [name]);
}

/** Warns of a comparison with a literal that a sensor cannot read. */
export function checkRange(
  comparison: Extract<Expression, { type: "compare" }>,
  robot: Robot,
  report: (problem: Problem) => void,
): void {
  const { left, right } = comparison;
  const [reading, literal] = left.type === "name" ? [left, right] : [right, left];
  if (reading.type !== "name") return;
  const value = literalValue(literal);
  if (value === null) return;
  const name = reading.path.join(".");
  const eye = robot.sensors.find((sensor) => sensor.kind === "eye" && name === `${sensor.name}.distance`);
  if (eye?.kind === "eye" && (value < eye.nearM || value > eye.farM))
    report(
      outsideRange(literal, name, `${plainDigits(eye.nearM * 100, 1)} cm`, `${plainDigits(eye.farM * 100, 1)} cm`),
    );
  if (name.endsWith(".light") && (value < 0 || value > 1)) report(outsideRange(literal, name, "0 %", "100 %"));
}
