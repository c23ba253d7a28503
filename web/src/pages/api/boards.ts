import { exportMission, TARGETS } from "@giddy-pebble/boards";
import { openRobot, readProgram } from "@giddy-pebble/core";
import type { APIRoute } from "astro";
import { z } from "zod";
import { handle, otherMethods, problem, readBody } from "../../server/http.js";

/** A program and a robot. */
const LARGEST = 8 * 1024 * 1024;
const body = z.strictObject({
  target: z.enum(TARGETS),
  title: z.string().min(1).max(200),
  program: z.unknown(),
  robot: z.unknown(),
});

/** Writes a program out for a real board: all its files as text, its steps, and what a board cannot do of it. */
export const POST: APIRoute = (context) =>
  handle(context, async () => {
    const { target, title, program: sent, robot: described } = await readBody(context.request, body, LARGEST);
    const program = readProgram(sent);
    if (!program.ok) {
      const [fault] = program.faults;
      return problem(
        400,
        "bad-program",
        "Not a program",
        `The program does not read: ${fault?.place ?? ""} ${fault?.message ?? ""}.`,
      );
    }
    const robot = openRobot(described);
    if (!robot.ok) return problem(400, "bad-robot", "Not a robot", `The robot does not read: ${robot.problems[0]}.`);
    const made = await exportMission(target, program.program, robot.document, title);
    const { files, ...rest } = made;
    return Response.json({ files: [...files].map(([name, text]) => ({ name, text })), ...rest });
  });

export const ALL = otherMethods({ POST });
