// A package made into what a board takes: written out and compiled by the server, then written through its bootloader.
import {
  type BoardManifest,
  type BoardPackage,
  type ByteLine,
  beginOf,
  boardWriter,
  type DealtPins,
  openField,
  openFloor,
  openRobot,
  prepareMission,
  type Upload,
  type UploadWatch,
} from "@giddy-pebble/core";
import { api } from "../api.js";
import type { BoardKind } from "./serialPort.js";

type Built =
  | {
      readonly ok: true;
      readonly manifest: BoardManifest;
      readonly pins: DealtPins | null;
      readonly write: (line: ByteLine, watch: UploadWatch) => Promise<Upload>;
    }
  | { readonly ok: false; readonly why: string };

async function sha256(bytes: Uint8Array): Promise<string> {
  const digest = await crypto.subtle.digest("SHA-256", bytes as Uint8Array<ArrayBuffer>);
  return [...new Uint8Array(digest)].map((byte) => byte.toString(16).padStart(2, "0")).join("");
}

const refuse = (why: string): Built => ({ ok: false, why });

export async function buildFor(kind: BoardKind, sent: BoardPackage): Promise<Built> {
  const robot = openRobot(sent.program.robot);
  if (!robot.ok) return refuse(`The robot sent along cannot be used: ${robot.problems[0]}.`);
  const field = sent.program.field === null ? null : openField(sent.program.field);
  if (field && !field.ok) return refuse(`The field sent along cannot be used: ${field.problems[0]}.`);
  const table = field ? field.document : openFloor();
  const prepared = prepareMission(sent.program.text, robot.document, table);
  if (!prepared.program) return refuse("The mission has problems to fix first.");
  const made = await api.exportBoard({
    target: kind,
    title: sent.name,
    program: prepared.program,
    robot: robot.document,
  });
  if (!made.ok) return refuse(made.message);
  const { files, problems, missing, version, watched, link, pins, steps } = made.value;
  const [problem] = problems;
  if (problem) return refuse(problem.step === "" ? problem.message : `Line ${problem.line}: ${problem.message}`);
  if (missing !== null) return refuse(`It was not compiled. ${missing}`);
  if (link === "none")
    return refuse(
      "The mission leaves no room on the chip for the link: the board could not tell that it runs. Shorten the mission, or save it as .zip and write it there by hand.",
    );
  const { xM, yM, headingRad, name } = beginOf(prepared.mission, table);
  const manifest: BoardManifest = {
    version,
    name: sent.name,
    sha256: sent.sha256,
    bytes: sent.bytes,
    label: sent.label,
    origin: sent.origin,
    savedAt: new Date().toISOString(),
    robot: robot.document.name,
    steps,
    watched,
    link,
    begin: { name, xM, yM, headingRad },
    field: table.name,
    handsOver: prepared.program.remote !== null,
  };
  const write = boardWriter(kind, new Map(files.map((file) => [file.name, file.text])), sha256);
  return write ? { ok: true, manifest, pins, write } : refuse("The server wrote no program that fits the chip.");
}
