// XML of an SVG file as a small tree, within bounds: no entities of its own, no endless nesting, nothing fetched.
import { SaxesParser } from "saxes";

export interface XmlNode {
  /** Without its prefix, lower case as SVG writes it. */
  readonly name: string;
  /** As written, prefixes included. */
  readonly attributes: Readonly<Record<string, string>>;
  readonly children: XmlNode[];
  text: string;
}

type XmlReading = { readonly ok: true; readonly root: XmlNode } | { readonly ok: false; readonly problem: string };

const SVG_LIMITS = { bytes: 8_000_000, depth: 120, elements: 60_000 } as const;

class Refused extends Error {}

/** @returns the tree, or one sentence that says why the file is not taken */
export function readXml(text: string): XmlReading {
  if (text.length > SVG_LIMITS.bytes)
    return { ok: false, problem: `The file has ${Math.floor(text.length / 1e6)} MB. 8 MB is the most.` };
  const parser = new SaxesParser({ xmlns: false, position: true });
  const stack: XmlNode[] = [];
  let root: XmlNode | null = null;
  let elements = 0;
  parser.on("doctype", (doctype) => {
    if (/<!ENTITY/i.test(doctype)) throw new Refused("The file defines entities of its own. Save it as plain SVG.");
  });
  parser.on("error", (error) => {
    throw new Refused(
      `This is not sound XML: ${error.message.replace(/^\d+:\d+: /, `line ${parser.line}, `).replace(/\.?$/, ".")}`,
    );
  });
  parser.on("opentag", (tag) => {
    elements += 1;
    if (elements > SVG_LIMITS.elements)
      throw new Refused(`The file has more than ${SVG_LIMITS.elements} elements. Leave some out.`);
    if (stack.length >= SVG_LIMITS.depth)
      throw new Refused(`The file nests its groups more than ${SVG_LIMITS.depth} deep. Ungroup some.`);
    const name = tag.name.slice(tag.name.indexOf(":") + 1);
    const node: XmlNode = { name, attributes: tag.attributes as Record<string, string>, children: [], text: "" };
    stack.at(-1)?.children.push(node);
    root ??= node;
    stack.push(node);
  });
  parser.on("closetag", () => void stack.pop());
  const addText = (words: string) => {
    const open = stack.at(-1);
    if (open && words.trim() !== "") open.text += words;
  };
  parser.on("text", addText);
  parser.on("cdata", addText);
  try {
    parser.write(text).close();
  } catch (error) {
    if (error instanceof Refused) return { ok: false, problem: error.message };
    return { ok: false, problem: `This is not sound XML: ${error instanceof Error ? error.message : String(error)}` };
  }
  return root ? { ok: true, root } : { ok: false, problem: "The file is empty." };
}
