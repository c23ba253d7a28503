// Files of fields: what a file is, what it becomes, and fields as files.
import {
  exportSvg,
  type Field,
  fromBase64,
  importSvg,
  matTrouble,
  openField,
  openRobot,
  type Point,
  type SvgKind,
  type SvgReading,
} from "@giddy-pebble/core";
import { keepPicture } from "../../shared/field/pictures.js";
import { whenLeft } from "../../shared/visit.js";
import { matAnswerSchema } from "../../workers/matProtocol.js";
import { startWorker } from "../../workers/startWorker.js";
import { useField } from "./state.js";
import { changeField, freeName, make } from "./store.js";

const set = useField.setState;
const LARGEST_TEXT = 8_000_000;
const LARGEST_PICTURE = 16_000_000;

export function stemOf(name: string): string {
  return name.replace(/\.(field\.)?[a-z0-9]+$/i, "").slice(0, 60) || "field";
}

/** Takes a file that was dropped or chosen. @returns what is wrong with it, as a sentence; null when it is taken */
export async function takeFile(file: File): Promise<string | null> {
  if (/^image\/(png|jpeg|webp)$/.test(file.type) || /\.(png|jpe?g|webp)$/i.test(file.name)) return takePicture(file);
  if (file.size > LARGEST_TEXT)
    return `${file.name} has ${Math.round(file.size / 1e6)} MB. 8 MB is the most; leave some of it out.`;
  const text = await file.text();
  if (/\.svg$/i.test(file.name) || file.type === "image/svg+xml" || /^\s*(<\?xml[^>]*>\s*)?<svg/.test(text)) {
    const read = importSvg(text, stemOf(file.name));
    if (!read.ok) return `${file.name}: ${read.problem}`;
    set({ file: { name: file.name, text }, panel: "drawing" });
    return null;
  }
  return takeJson(file.name, text);
}

async function takeJson(name: string, text: string): Promise<string | null> {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    return `${name} is neither a drawing, a picture nor JSON. Choose an SVG, PNG, JPEG or WebP file, or a field that was exported here.`;
  }
  const opened = openField(value);
  if (opened.ok) {
    const { picture } = opened.document;
    // What the file holds of its picture is kept on the server first.
    const kept = picture?.png ? await keepPicture(fromBase64(picture.png)) : null;
    if (kept && "problem" in kept) return kept.problem;
    const body = picture && kept ? { ...opened.document, picture: { ...picture, ...kept } } : opened.document;
    const failed = await make({ ...body, name: freeName(body.name) }, `from ${name}`);
    if (failed === null && opened.leftOut.length > 0) set({ message: opened.leftOut.slice(0, 3).join(" ") });
    return failed;
  }
  if (openRobot(value).ok) return `${name} is a robot. Open it in the Robot workplace.`;
  return `${name} cannot be taken: ${opened.problems.slice(0, 3).join("; ")}.`;
}

async function takePicture(file: File): Promise<string | null> {
  if (file.size > LARGEST_PICTURE)
    return `${file.name} has ${Math.round(file.size / 1e6)} MB. 16 MB is the most; make the picture smaller.`;
  try {
    const image = await createImageBitmap(file);
    set({ file: { name: file.name, image }, panel: "mat" });
    return null;
  } catch {
    return `${file.name} could not be read as a picture. Save it again as PNG or JPEG.`;
  }
}

/** The drawing as it would become a field, with what was chosen for its colours and groups. */
export function readDrawing(text: string, name: string, choices: ReadonlyMap<string, SvgKind>): SvgReading {
  return importSvg(text, name, choices);
}

/** A field of its own from a drawing. */
export function openDrawing(field: Field, name: string): Promise<string | null> {
  return make({ ...field, name: freeName(field.name) }, `from ${name}`);
}

/** Everything of a drawing but its floor, put on the field that is open. */
export function addDrawing(drawn: Field, name: string): void {
  changeField(`adding ${name}`, (now) => ({
    ...now,
    marks: [...now.marks, ...drawn.marks],
    walls: [...now.walls, ...drawn.walls],
    obstacles: [...now.obstacles, ...drawn.obstacles],
    boulders: [...now.boulders, ...drawn.boulders],
    zones: [...now.zones, ...drawn.zones],
  }));
}

function save(text: string, type: string, ending: string): void {
  const { field } = useField.getState();
  const address = URL.createObjectURL(new Blob([text], { type }));
  const link = document.createElement("a");
  link.href = address;
  link.download = `${field.name.toLowerCase().replace(/[^a-z0-9]+/g, "-")}.${ending}`;
  link.click();
  URL.revokeObjectURL(address);
}

/** Saves the field on the screen as a file of our open format, its picture within. */
export function exportJson(): void {
  save(`${JSON.stringify(useField.getState().field, null, 2)}\n`, "application/json", "field.json");
}

export function exportDrawing(): void {
  save(exportSvg(useField.getState().field), "image/svg+xml", "svg");
}

export interface Mat {
  readonly corners: readonly Point[];
  readonly widthM: number;
  readonly heightM: number;
  readonly white: Point | null;
  readonly black: Point | null;
}

/** A picture's pixels. @throws Error when the browser cannot unpack it */
function pixelsOf(image: ImageBitmap): ImageData {
  const canvas = new OffscreenCanvas(image.width, image.height);
  const context = canvas.getContext("2d", { willReadFrequently: true });
  if (!context) throw new Error("This browser cannot read pictures.");
  context.drawImage(image, 0, 0);
  return context.getImageData(0, 0, image.width, image.height);
}

export interface Straightening {
  readonly done: Promise<string | null>;
  cancel(): void;
}

let straightening: Worker | null = null;
whenLeft(() => straightening?.terminate());

/** Straightens a picture and lays it as the floor; the floor takes its size. */
export function layMat(image: ImageBitmap, mat: Mat, onShare: (share: number) => void): Straightening {
  const trouble = matTrouble(image, mat);
  if (trouble !== null) return { done: Promise.resolve(trouble), cancel: () => {} };
  const worker = startWorker("mat");
  straightening = worker;
  let give: (answer: string | null) => void = () => {};
  const done = new Promise<string | null>((resolve) => {
    give = resolve;
  }).finally(() => worker.terminate());
  worker.onmessage = (event: MessageEvent<unknown>) => {
    const answer = matAnswerSchema.parse(event.data);
    if (answer.kind === "progress") onShare(answer.share);
    else if (answer.kind === "failed") give(answer.problem);
    else void lay(answer, mat).then(give);
  };
  worker.onerror = () => give("The picture could not be straightened. Try a smaller one.");
  try {
    const { width, height, data } = pixelsOf(image);
    worker.postMessage({ width, height, data: data.buffer, mat }, [data.buffer]);
  } catch (error) {
    give(error instanceof Error ? error.message : String(error));
  }
  return { done, cancel: () => give("Not laid: it was cancelled.") };
}

async function lay(
  made: { readonly columns: number; readonly rows: number; readonly png: ArrayBuffer },
  mat: Mat,
): Promise<string | null> {
  const kept = await keepPicture(new Uint8Array(made.png));
  if ("problem" in kept) return kept.problem;
  const picture = { columns: made.columns, rows: made.rows, asset: kept.asset, png: kept.png };
  changeField("laying a picture as the floor", (field) => ({
    ...field,
    picture,
    size: { ...field.size, widthM: mat.widthM, heightM: mat.heightM },
  }));
  return null;
}
