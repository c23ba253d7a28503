// Colours, widths and dashes of SVG elements: attributes, style attributes, and style sheets with plain selectors.
import { rgb } from "d3-color";
import type { XmlNode } from "./xml.js";

/** Declarations as written, by property. */
export type Declarations = Readonly<Record<string, string>>;

interface Rule {
  readonly tag: string | null;
  readonly id: string | null;
  readonly classes: readonly string[];
  readonly weight: number;
  readonly declarations: Declarations;
}

const INHERITED = [
  "fill",
  "fill-rule",
  "fill-opacity",
  "stroke",
  "stroke-width",
  "stroke-dasharray",
  "stroke-opacity",
  "color",
  "visibility",
] as const;
const OWN = ["display", "opacity"] as const;

function readDeclarations(text: string): Record<string, string> {
  const found: Record<string, string> = {};
  for (const part of text.split(";")) {
    const colon = part.indexOf(":");
    if (colon > 0)
      found[part.slice(0, colon).trim().toLowerCase()] = part
        .slice(colon + 1)
        .replace(/!important/i, "")
        .trim();
  }
  return found;
}

/** Rules of a style sheet whose selectors are a tag, an id, classes, or these together; others are passed over. */
export function readRules(sheet: string): Rule[] {
  const rules: Rule[] = [];
  const plain = sheet.replace(/\/\*[\s\S]*?\*\//g, "");
  for (const [, selectors = "", body = ""] of plain.matchAll(/([^{}]+)\{([^{}]*)\}/g)) {
    const declarations = readDeclarations(body);
    for (const selector of selectors.split(",")) {
      const match = /^([a-z]+|\*)?(#[\w-]+)?((?:\.[\w-]+)*)$/i.exec(selector.trim());
      if (!match || selector.trim() === "") continue;
      const [, tag, id, classes = ""] = match;
      const names = classes.split(".").filter((name) => name !== "");
      rules.push({
        tag: tag && tag !== "*" ? tag : null,
        id: id ? id.slice(1) : null,
        classes: names,
        weight: (id ? 100 : 0) + 10 * names.length + (tag && tag !== "*" ? 1 : 0),
        declarations,
      });
    }
  }
  return rules.sort((a, b) => a.weight - b.weight);
}

function applies(rule: Rule, node: XmlNode, classes: readonly string[]): boolean {
  return (
    (rule.tag === null || rule.tag === node.name) &&
    (rule.id === null || rule.id === node.attributes.id) &&
    rule.classes.every((name) => classes.includes(name))
  );
}

/** What an element is drawn with: its own declarations over those it inherits. */
export function styleOf(node: XmlNode, inherited: Declarations, rules: readonly Rule[]): Record<string, string> {
  const style: Record<string, string> = {};
  for (const key of INHERITED) if (inherited[key] !== undefined) style[key] = inherited[key];
  const take = (declarations: Declarations) => {
    for (const key of [...INHERITED, ...OWN]) {
      const value = declarations[key];
      if (value !== undefined && value !== "inherit") style[key] = value;
    }
  };
  take(node.attributes);
  const classes = (node.attributes.class ?? "").split(/\s+/);
  for (const rule of rules) if (applies(rule, node, classes)) take(rule.declarations);
  take(readDeclarations(node.attributes.style ?? ""));
  return style;
}

/** "#RRGGBB"; null for no paint. A gradient or pattern counts as middle grey. */
export function paintOf(value: string | undefined, style: Declarations): string | null {
  if (value === undefined || value === "none" || value === "transparent") return null;
  const named = value === "currentColor" ? (style.color ?? "black") : value;
  if (/^url\(/.test(named)) return "#808080";
  const colour = rgb(named);
  if (Number.isNaN(colour.r) || colour.opacity === 0) return null;
  return rgb(colour.r, colour.g, colour.b).formatHex().toUpperCase();
}

export function shown(style: Declarations): boolean {
  return style.display !== "none" && style.visibility !== "hidden" && Number(style.opacity ?? "1") > 0;
}

const UNITS: Readonly<Record<string, number>> = {
  "": 25.4 / 96,
  px: 25.4 / 96,
  mm: 1,
  cm: 10,
  m: 1000,
  in: 25.4,
  pt: 25.4 / 72,
  pc: 25.4 / 6,
  q: 0.25,
};

/** A length of a document's width or height, mm; null when it has none that stands by itself. */
export function lengthMm(text: string | undefined): number | null {
  const match = /^\s*([+]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?)\s*([a-z]*)\s*$/i.exec(text ?? "");
  const scale = match ? UNITS[(match[2] ?? "").toLowerCase()] : undefined;
  return match && scale !== undefined ? Number(match[1]) * scale : null;
}

/** A number in user units; lengths with units in px of 96 to the inch. */
export function userUnits(text: string | undefined, otherwise: number): number {
  if (text === undefined) return otherwise;
  const match = /^\s*([+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?)\s*([a-z%]*)\s*$/i.exec(text);
  if (!match) return otherwise;
  const unit = (match[2] ?? "").toLowerCase();
  if (unit === "" || unit === "px") return Number(match[1]);
  const scale = UNITS[unit];
  return scale === undefined ? otherwise : (Number(match[1]) * scale) / (25.4 / 96);
}
