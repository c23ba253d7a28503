// A small picture of each document, and each document as a file.
import {
  fieldSketch,
  openField,
  openFloor,
  openRobot,
  robotSketch,
  traceColumn,
  unpackTrace,
} from "@giddy-pebble/core";
import { pool } from "./database.js";
import { openDocument } from "./documentService.js";
import { findAsset } from "./repositories/assets.js";
import { findDocumentByName } from "./repositories/documents.js";
import { newestTrace } from "./repositories/trials.js";

async function fieldNamed(team: string, name: string | null) {
  const found = name === null ? null : await findDocumentByName(pool(), team, "field", name);
  const open = found ? await openDocument(pool(), team, found.id) : null;
  const read = open ? openField((open.draft ?? open.head).body) : null;
  return read?.ok ? read.document : null;
}

/** @returns SVG text; null when there is nothing to draw */
export async function pictureOf(team: string, id: string): Promise<string | null> {
  const open = await openDocument(pool(), team, id);
  if (!open) return null;
  const { document, draft, head } = open;
  const { body } = draft ?? head;
  if (document.kind === "robot") {
    const read = openRobot(body);
    return read.ok ? robotSketch(read.document) : null;
  }
  if (document.kind === "field") {
    const read = openField(body);
    return read.ok ? fieldSketch(read.document) : null;
  }
  if (document.kind !== "mission") return null;
  const field = (await fieldNamed(team, document.names_field)) ?? openFloor();
  const packed = await newestTrace(pool(), team, id);
  const read = packed ? unpackTrace(packed) : null;
  const [x, y] = read?.ok ? [traceColumn(read.trace, "x"), traceColumn(read.trace, "y")] : [null, null];
  return fieldSketch(field, x && y ? { x, y } : null);
}

interface DocumentFile {
  readonly name: string;
  readonly type: string;
  readonly text: string;
}

/** A document as a file of its open format, with what is being typed; a field holds its picture. */
export async function fileOfDocument(team: string, id: string): Promise<DocumentFile | null> {
  const open = await openDocument(pool(), team, id);
  if (!open) return null;
  const { document, draft, head } = open;
  const { body, text } = draft ?? head;
  const stem =
    document.name
      .normalize("NFKD")
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, "-")
      .replace(/^-|-$/g, "") || document.kind;
  if (text !== null) return { name: `${stem}.cairn`, type: "text/plain; charset=utf-8", text };
  const asset = (body as { picture?: { asset?: unknown } }).picture?.asset;
  const bytes = typeof asset === "string" ? await findAsset(pool(), team, asset) : null;
  const picture = bytes ? { ...(body as { picture: object }).picture, png: bytes.toString("base64") } : null;
  const whole = picture ? { ...(body as object), picture } : body;
  return {
    name: `${stem}.${document.kind}.json`,
    type: "application/json",
    text: `${JSON.stringify(whole, null, 2)}\n`,
  };
}
