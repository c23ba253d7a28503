// `giddy board`: a board on this computer, wired to a simulated robot. Its serial line is a pseudo-terminal.
import { mkdtempSync, rmSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import { createInterface } from "node:readline";
import { exportMission } from "@giddy-pebble/boards";
import { beginOf, type FromBench, fieldPieces, type ToBench } from "@giddy-pebble/core";
import { AvrChip, PtyCable, PythonBoard, realClock, StandInBoard } from "@giddy-pebble/device";
import { ready } from "./boards.js";
import type { DocumentOptions } from "./documents.js";
import { nameOf } from "./files.js";
import { boardKind } from "./put.js";

interface BoardOptions extends DocumentOptions {
  target: string;
  seed: string;
}

type Hands = ToBench extends infer T ? (T extends { ask: number } ? Omit<T, "ask"> : never) : never;

const WHAT = `press BUTTON, release BUTTON, where, tape, place, reset, off`;

/** @returns exit status: 0 when it was switched off, 1 when it stopped by itself, 2 when there is a problem */
export async function boardCommand(file: string, options: BoardOptions): Promise<number> {
  const kind = boardKind(options.target);
  const seed = Number(options.seed);
  if (!/^\d+$/.test(options.seed.trim()) || seed > 4294967295)
    throw new Error(`--seed must be a whole number from 0 to 4294967295, not "${options.seed}".`);
  const prepared = await ready(file, options);
  if (!prepared?.program) return 2;
  const { robot, field } = prepared.context;
  const { pins, problems } = await exportMission(kind, prepared.program, robot, "board");
  const [problem] = problems;
  if (problem || !pins) {
    process.stderr.write(
      problem
        ? `${nameOf(file)}:${problem.line}: ${problem.message}\n`
        : `The parts of ${robot.name} find no lines on this board.\n`,
    );
    return 2;
  }
  const begin = beginOf(prepared.mission, field);
  const folder = mkdtempSync(path.join(os.tmpdir(), "giddy-memory-"));
  const memory = path.join(folder, "memory");
  const processor = kind === "avr" ? await AvrChip.start(memory) : await PythonBoard.start(memory);
  const cable = await PtyCable.lay(os.tmpdir(), `${kind}.tty`, () => {
    // A board with an adapter is reset by being opened; one that is its own adapter is not.
    if (kind === "avr") void cable.bench({ do: "reset" });
  }).catch((error: unknown) => {
    void processor.close();
    throw error;
  });
  let status = 0;
  const off = new Promise<StandInBoard>((resolve) => {
    const board = new StandInBoard(robot, seed, kind, processor, realClock, (why) => {
      process.stderr.write(`The board stopped: ${why}\n`);
      status = 1;
      resolve(board);
    });
    board.open(cable);
    const end = () => resolve(board);
    process.once("SIGINT", end);
    process.once("SIGTERM", end);
    listen(cable, begin, end);
  });
  for (const what of [
    { do: "wire", pins },
    ...fieldPieces(field),
    { do: "place", begin, how: "eye", keepField: true },
  ] satisfies Hands[]) {
    const answer = await cable.bench(what);
    if (answer.told === "refused") throw new Error(answer.why);
  }
  process.stdout.write(
    [
      `The board of ${robot.name} is on. The robot stands at "${begin.name}" on ${field.name}.`,
      `Its serial line is ${cable.path}`,
      `Put a mission on it: npx giddy put ${nameOf(file)} --target ${kind} --port ${cable.path}`,
      `Write what your hands do: ${WHAT}. Ctrl-C switches it off.`,
      "",
    ].join("\n"),
  );
  await (await off).close();
  rmSync(folder, { recursive: true, force: true });
  return status;
}

/** Does what a person writes on standard input. */
function listen(cable: PtyCable, begin: ReturnType<typeof beginOf>, end: () => void): void {
  const input = createInterface({ input: process.stdin });
  const say = (words: string) => process.stdout.write(`${words}\n`);
  input.on("line", (line) => {
    const [verb = "", ...rest] = line.trim().split(/\s+/);
    const button = rest.join(" ");
    if (verb === "off") return end();
    if (verb === "where") return say(cable.seen ? placeWords(cable.seen) : "Nobody has seen it yet.");
    const what = handsOf(verb, button, begin);
    if (what) void cable.bench(what).then((answer) => say(answerWords(answer)));
    else if (verb !== "") say(`This board knows: ${WHAT}.`);
  });
}

function handsOf(verb: string, button: string, begin: ReturnType<typeof beginOf>): Hands | null {
  if (verb === "press" || verb === "release") return { do: "press", button, down: verb === "press" };
  if (verb === "tape" || verb === "reset") return { do: verb };
  return verb === "place" ? { do: "place", begin, how: "eye", keepField: true } : null;
}

const cm = (m: number) => `${(100 * m).toFixed(1)} cm`;
const deg = (rad: number) => `${((180 * rad) / Math.PI).toFixed(1)} deg`;

function placeWords({ xM, yM, headingRad }: { xM: number; yM: number; headingRad: number }): string {
  return `It is at ${cm(xM)}, ${cm(yM)}, heading ${deg(headingRad)}.`;
}

function answerWords(answer: FromBench): string {
  if (answer.told === "tape")
    return `The tape: ${cm(answer.alongM)} along, ${cm(answer.asideM)} to the left, turned ${deg(answer.headingRad)}.`;
  return answer.told === "refused" ? answer.why : "Done.";
}
