// Files from outside, on any page: what a file is, and where it is opened.
import { openField, openRobot } from "@giddy-pebble/core";
import { type Answer, api, type OpenView, type Taken } from "../api.js";
import { linkTo } from "../place.js";
import { handFile } from "../unsaved.js";

const LARGEST_TEXT = 8_000_000;
const MB = 1_000_000;
const KNOWN =
  "It can be a mission (.cairn), or a robot or a field (.json). It can be a drawing (.svg), a picture of a mat (.png, .jpg, .webp) or a whole project (.zip).";

/** What became of a file: the page it is open on, or why it is not. */
type Opened =
  | { readonly ok: true; readonly href: string; readonly words: string }
  | { readonly ok: false; readonly problem: string };

function stemOf(name: string): string {
  return (
    name
      .replace(/\.(robot\.|field\.)?[a-z0-9]+$/i, "")
      .replaceAll(/[-_]+/g, " ")
      .trim()
      .slice(0, 60) || "Untitled"
  );
}

/** A name that no document of the kind has yet. */
async function freeName(kind: string, name: string): Promise<string> {
  const found = await api.documents(kind);
  const taken = new Set(found.ok ? found.value.documents.map((one) => one.name) : []);
  if (!taken.has(name)) return name;
  for (let n = 2; ; n += 1) if (!taken.has(`${name} ${n}`)) return `${name} ${n}`;
}

function opened(made: Answer<OpenView>, page: string, key: string, word: string): Opened {
  if (!made.ok) return { ok: false, problem: made.message };
  const { id, name } = made.value.document;
  return { ok: true, href: linkTo(`/${page}?${key}=${id}`), words: `${name} is a ${word} of this project now.` };
}

async function openText(file: File, text: string): Promise<Opened> {
  // A mission has steps under a line of its own; a collection has routines alone.
  const kind = /^mission[ \t\r]*$/m.test(text) ? "mission" : "collection";
  const name = await freeName(kind, stemOf(file.name));
  return opened(await api.create(kind, name, text, `from ${file.name}`), "mission", "mission", kind);
}

async function openJson(file: File, text: string): Promise<Opened> {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    return { ok: false, problem: `${file.name} is not a file that Giddy Pebble knows. ${KNOWN}` };
  }
  const format = (value as { format?: unknown } | null)?.format;
  if (format === "giddy-pebble/robot") {
    const read = openRobot(value);
    if (!read.ok)
      return { ok: false, problem: `${file.name} cannot be opened: ${read.problems.slice(0, 3).join("; ")}.` };
    const name = await freeName("robot", read.document.name);
    const made = await api.createBody("robot", name, { ...read.document, name }, `from ${file.name}`);
    return opened(made, "robot", "robot", "robot");
  }
  if (format === "giddy-pebble/field") {
    const read = openField(value);
    if (!read.ok)
      return { ok: false, problem: `${file.name} cannot be opened: ${read.problems.slice(0, 3).join("; ")}.` };
    return handOver(file);
  }
  return { ok: false, problem: `${file.name} is JSON, but neither a robot nor a field. ${KNOWN}` };
}

/** To the Field workplace, which asks what of a drawing or a picture means what. */
async function handOver(file: File): Promise<Opened> {
  if (!(await handFile(file)))
    return {
      ok: false,
      problem: `This browser could not hand ${file.name} to the Field page. Open Field and drop the file there.`,
    };
  return { ok: true, href: linkTo("/field?file=handed"), words: "" };
}

/** "2 robots": what was taken of a project, in words. */
function takenWords(taken: Taken): string {
  const some = (n: number, one: string, many: string) => (n === 0 ? [] : [`${n} ${n === 1 ? one : many}`]);
  const list = [
    ...some(taken.documents, "document", "documents"),
    ...some(taken.trials, "run", "runs"),
    ...some(taken.studies, "study", "studies"),
    ...some(taken.calibrations, "calibration", "calibrations"),
  ];
  const came = list.length === 0 ? "Everything in it was here already." : `It brought ${list.join(", ")}.`;
  const renamed = taken.renamed.length === 0 ? "" : ` ${taken.renamed.slice(0, 5).join(", ")}.`;
  return `${came}${renamed}`;
}

async function openProject(file: File): Promise<Opened> {
  const taken = await api.takeProject(file);
  if (!taken.ok) return { ok: false, problem: taken.message };
  return { ok: true, href: linkTo("/"), words: takenWords(taken.value) };
}

/** Takes a file in. @returns where it is open now, or what is wrong with it, as a sentence */
export async function openFile(file: File): Promise<Opened> {
  const head = new Uint8Array(await file.slice(0, 4).arrayBuffer());
  if (head[0] === 0x50 && head[1] === 0x4b) return openProject(file);
  if (/\.(png|jpe?g|webp|svg)$/i.test(file.name) || /^image\//.test(file.type)) return handOver(file);
  if (file.size > LARGEST_TEXT)
    return {
      ok: false,
      problem: `${file.name} has ${Math.round(file.size / MB)} MB. 8 MB is the most for such a file.`,
    };
  const text = await file.text();
  if (/^﻿?\s*cairn \d/.test(text)) return openText(file, text.replace(/^﻿/, ""));
  if (/^\s*(<\?xml[^>]*>\s*)?<svg/.test(text)) return handOver(file);
  return openJson(file, text);
}
