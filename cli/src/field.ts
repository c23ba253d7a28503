// `giddy field`: fields from drawings and pictures, as drawings, from ready starts, checked, and probed by a robot.
import { readFile, stat } from "node:fs/promises";
import path from "node:path";
import {
  ANGLE,
  checkField,
  cornersFromLength,
  type Dimension,
  exportSvg,
  type Field,
  fieldSchema,
  fieldSha,
  findStart,
  fittingPng,
  importSvg,
  LENGTH,
  MASS,
  makeField,
  matTrouble,
  mendField,
  NUMBER,
  openField,
  type Point,
  Probe,
  pictureText,
  problemPlace,
  READY_STARTS,
  readPictureImage,
  readQuantity,
  readRobot,
  SVG_KINDS,
  type SvgKind,
  straighten,
} from "@giddy-pebble/core";
import { nameOf, readText, reasonOf, writeText } from "./files.js";

const LARGEST_FIELD = 8_000_000;
const LARGEST_PICTURE = 16_000_000;

/** What cannot be done, as a sentence: exit status 2. */
class Unusable extends Error {}

function say(json: boolean | undefined, value: unknown, lines: readonly string[]): void {
  if (json) process.stdout.write(`${JSON.stringify(value)}\n`);
  else if (lines.length > 0) process.stdout.write(`${lines.join("\n")}\n`);
}

/** Runs a command; what cannot be used is said in the form that was asked for. */
async function guarded(json: boolean | undefined, run: () => Promise<number>): Promise<number> {
  try {
    return await run();
  } catch (error) {
    if (!(error instanceof Unusable)) throw error;
    if (json) say(true, { ok: false, problems: [{ severity: "error", message: error.message }] }, []);
    else process.stderr.write(`${error.message}\n`);
    return 2;
  }
}

function quantity(text: string, dimension: Dimension, unit: string | undefined, what: string): number {
  const read = readQuantity(text.trim(), dimension, unit);
  if (!read.ok) throw new Unusable(`${what}: ${read.message}`);
  return read.quantity.value;
}

async function readField(file: string): Promise<{ field: Field; leftOut: readonly string[] }> {
  const read = await readText(file, LARGEST_FIELD);
  if (!read.ok && read.bytes !== undefined)
    throw new Unusable(`${nameOf(file)} has ${Math.ceil(read.bytes / 1e6)} MB. A field has 8 MB at most.`);
  if (!read.ok) throw new Unusable(`${nameOf(file)} cannot be read: ${read.why}. Check its name and place.`);
  let value: unknown;
  try {
    value = JSON.parse(read.text);
  } catch (error) {
    throw new Unusable(`${nameOf(file)} is not JSON: ${error instanceof Error ? error.message : String(error)}`);
  }
  const opened = openField(value);
  if (!opened.ok) throw new Unusable(`${nameOf(file)}: ${opened.problems.join("; ")}.`);
  return { field: opened.document, leftOut: opened.leftOut };
}

function fieldText(field: Field): string {
  return `${JSON.stringify(field, null, 2)}\n`;
}

async function put(out: string | undefined, text: string): Promise<void> {
  if (out === undefined) process.stdout.write(text);
  else await writeText(out, text);
}

function pixelPoint(text: string, what: string): Point {
  const [x, y, more] = text.split(",").map(Number);
  if (x === undefined || y === undefined || more !== undefined || !Number.isFinite(x) || !Number.isFinite(y))
    throw new Unusable(`${what} needs two numbers with a comma, as 120,80: pixels from the left and from the top.`);
  return [x, y];
}

interface ImportOptions {
  out?: string;
  name?: string;
  as?: string[];
  corners?: string;
  size?: string;
  scale?: string;
  white?: string;
  black?: string;
  mend?: boolean;
  json?: boolean;
}

export function importCommand(file: string, options: ImportOptions): Promise<number> {
  return guarded(options.json, async () => {
    const name = (options.name ?? path.basename(file).replace(/\.[a-z0-9]+$/i, "")).slice(0, 60) || "field";
    const drawn = /\.svg$/i.test(file) || file === "-";
    const {
      field: read,
      leftOut,
      choices,
    } = drawn ? await fromSvg(file, name, options) : await fromPng(file, name, options);
    const mended = options.mend ? mendField(read) : { field: read, left: checkField(read) };
    // With --json alone, what was read is printed; the field goes to a file.
    if (!options.json || options.out !== undefined) await put(options.out, fieldText(mended.field));
    const problems = mended.left.map(({ severity, code, at, message, fix }) => ({
      severity,
      code,
      at,
      message,
      fix: fix?.label ?? null,
    }));
    const lines = [
      ...leftOut,
      ...mended.left.map(({ severity, at, message }) => `${severity}: ${problemPlace(mended.field, at)}: ${message}`),
    ];
    if (options.json) say(true, { ok: true, name: mended.field.name, leftOut, choices, problems }, []);
    else for (const line of lines) process.stderr.write(`${line}\n`);
    return 0;
  });
}

type Imported = { field: Field; leftOut: readonly string[]; choices: readonly unknown[] };

async function fromSvg(file: string, name: string, options: ImportOptions): Promise<Imported> {
  const read = await readText(file, LARGEST_FIELD);
  if (!read.ok && read.bytes !== undefined) throw new Unusable(`${nameOf(file)} is too large. 8 MB is the most.`);
  if (!read.ok) throw new Unusable(`${nameOf(file)} cannot be read: ${read.why}. Check its name and place.`);
  const choices = new Map<string, SvgKind>();
  for (const one of options.as ?? []) {
    const at = one.lastIndexOf("=");
    const kind = SVG_KINDS.find((known) => known === one.slice(at + 1));
    if (at < 1 || !kind)
      throw new Unusable(`--as needs what and as what, as "stroke #C8352B=wall". It can be: ${SVG_KINDS.join(", ")}.`);
    choices.set(one.slice(0, at), kind);
  }
  const imported = importSvg(read.text, name, choices);
  if (!imported.ok) throw new Unusable(`${nameOf(file)}: ${imported.problem}`);
  return { field: options.name ? { ...imported.field, name } : imported.field, ...pick(imported) };
}

function pick<T extends { leftOut: readonly string[]; choices: readonly unknown[] }>({ leftOut, choices }: T) {
  return { leftOut, choices };
}

async function fromPng(file: string, name: string, options: ImportOptions): Promise<Imported> {
  const { size } = await stat(file).catch((error: unknown) => {
    throw new Unusable(`${file} cannot be read: ${reasonOf(error)}. Check its name and place.`);
  });
  if (size > LARGEST_PICTURE) throw new Unusable(`${file} has ${Math.ceil(size / 1e6)} MB. 16 MB is the most.`);
  const read = readPictureImage(new Uint8Array(await readFile(file)));
  if (!read.ok) throw new Unusable(`${file}: ${read.problem}`);
  const { pixels } = read;
  const white = options.white === undefined ? null : pixelPoint(options.white, "--white");
  const black = options.black === undefined ? null : pixelPoint(options.black, "--black");
  const place = picturePlace(pixels, options);
  const mat = { ...place, white, black };
  const trouble = matTrouble(pixels, mat);
  if (trouble !== null) throw new Unusable(`${file}: ${trouble}`);
  const picture = straighten(pixels, mat);
  if (!picture) throw new Unusable(`${file} could not be straightened.`);
  const bytes = fittingPng(picture);
  if (!bytes) throw new Unusable(`${file} holds too much to be kept. Make its mat smaller.`);
  const png = pictureText(bytes);
  const field = fieldSchema.parse({
    format: "giddy-pebble/field",
    version: 2,
    name,
    size: { widthM: place.widthM, heightM: place.heightM },
    surface: {},
    picture: { columns: picture.columns, rows: picture.rows, asset: await fieldSha(png), png },
    begins: [{ name: "begin", xM: place.widthM / 2, yM: place.heightM / 2, headingRad: 0 }],
  });
  return { field, leftOut: [], choices: [] };
}

function picturePlace(
  pixels: { readonly width: number; readonly height: number },
  options: ImportOptions,
): { corners: readonly Point[]; widthM: number; heightM: number } {
  if (options.scale !== undefined) {
    const [from = "", to = "", length = ""] = options.scale.split(/\s+/);
    return cornersFromLength(
      pixels,
      pixelPoint(from, "--scale"),
      pixelPoint(to, "--scale"),
      quantity(length, LENGTH, "mm", "--scale"),
    );
  }
  if (options.size === undefined)
    throw new Unusable(
      'A picture needs the size of its mat: --size "2.4 m,1.2 m", or two points and their distance: --scale "10,20 900,20 1 m".',
    );
  const [width = "", height = ""] = options.size.split(",");
  const corners = (options.corners ?? "").trim();
  return {
    corners:
      corners === ""
        ? [
            [0, pixels.height],
            [pixels.width, pixels.height],
            [pixels.width, 0],
            [0, 0],
          ]
        : corners.split(/\s+/).map((point) => pixelPoint(point, "--corners")),
    widthM: quantity(width, LENGTH, "mm", "--size"),
    heightM: quantity(height, LENGTH, "mm", "--size"),
  };
}

export function exportCommand(file: string, options: { svg?: string }): Promise<number> {
  return guarded(false, async () => {
    const { field } = await readField(file);
    await put(options.svg, exportSvg(field));
    return 0;
  });
}

const UNIT_OF: Readonly<Record<string, { dimension: Dimension; unit: string }>> = {
  m: { dimension: LENGTH, unit: "mm" },
  rad: { dimension: ANGLE, unit: "deg" },
  kg: { dimension: MASS, unit: "kg" },
};

export function makeCommand(
  kind: string,
  options: { set?: string[]; name?: string; out?: string; list?: boolean },
): Promise<number> {
  return guarded(false, async () => {
    const start = findStart(kind);
    if (!start)
      throw new Unusable(
        `There is no ready start "${kind}". There are: ${READY_STARTS.map(({ id }) => id).join(", ")}.`,
      );
    const numbers: Record<string, number> = {};
    for (const one of options.set ?? []) {
      const at = one.indexOf("=");
      const known = start.numbers.find(({ key }) => key === one.slice(0, at).trim());
      if (!known)
        throw new Unusable(
          `${start.id} has no number "${one.slice(0, Math.max(0, at))}". It has: ${start.numbers.map(({ key }) => key).join(", ")}.`,
        );
      const unit = UNIT_OF[known.unit];
      const value = quantity(one.slice(at + 1), unit?.dimension ?? NUMBER, unit?.unit, `--set ${known.key}`);
      if (value < known.least || value > known.most)
        throw new Unusable(`--set ${known.key}: it is from ${known.least} to ${known.most} ${known.unit}.`);
      numbers[known.key] = value;
    }
    await put(options.out, fieldText(makeField(start, options.name ?? start.title, numbers)));
    return 0;
  });
}

/** @returns exit status: 0 sound, 2 with errors or an unreadable file */
export function checkFieldCommand(file: string, options: { json?: boolean }): Promise<number> {
  return guarded(options.json, async () => {
    const { field, leftOut } = await readField(file);
    const problems = checkField(field);
    const errors = problems.filter(({ severity }) => severity === "error").length + leftOut.length;
    say(
      options.json,
      {
        ok: errors === 0,
        name: field.name,
        problems: problems.map(({ code, severity, at, message, fix }) => ({
          code,
          severity,
          at,
          message,
          fix: fix?.label ?? null,
        })),
        leftOut,
      },
      problems.length + leftOut.length === 0
        ? [`${nameOf(file)}: no problems`]
        : [
            ...leftOut.map((words) => `${nameOf(file)}: ${words}`),
            ...problems.map(
              ({ severity, at, message, fix }) =>
                `${nameOf(file)}: ${severity}: ${problemPlace(field, at)}: ${message}${fix ? `\n    mend: ${fix.label}` : ""}`,
            ),
          ],
    );
    return errors === 0 ? 0 : 2;
  });
}

export function probeCommand(file: string, options: { robot?: string; at?: string; json?: boolean }): Promise<number> {
  return guarded(options.json, async () => {
    const { field } = await readField(file);
    if (options.robot === undefined) throw new Unusable("A probe needs a robot: --robot R.json.");
    const read = await readText(options.robot, 2_000_000);
    if (!read.ok) throw new Unusable(`${options.robot} cannot be read: ${read.why}. Check its name and place.`);
    let value: unknown = null;
    try {
      value = JSON.parse(read.text);
    } catch {
      throw new Unusable(`${options.robot} is not JSON.`);
    }
    const robot = readRobot(value);
    if (!robot.ok) throw new Unusable(`${options.robot}: ${robot.problems.join("; ")}.`);
    const parts = (options.at ?? "").split(",");
    if (parts.length < 2 || parts.length > 3)
      throw new Unusable('--at needs a place and a heading, as "40cm,25cm,90deg": along, up and counter-clockwise.');
    const [x = "", y = "", heading = "0 deg"] = parts;
    const pose = {
      xM: quantity(x, LENGTH, "mm", "--at"),
      yM: quantity(y, LENGTH, "mm", "--at"),
      headingRad: quantity(heading, ANGLE, "deg", "--at"),
    };
    const { readings, eyes } = new Probe(robot.document, field).at(pose);
    say(
      options.json,
      {
        ok: true,
        field: field.name,
        robot: robot.document.name,
        at: pose,
        readings: Object.fromEntries(
          readings.map(({ id, value: number, kind, words }) => [id, { value: number, kind, words }]),
        ),
        hears: Object.fromEntries(eyes.map(({ name, hears }) => [name, hears === "" ? null : hears])),
      },
      readings.map(({ id, words }) => `${id.padEnd(28)} ${words}`),
    );
    return 0;
  });
}
