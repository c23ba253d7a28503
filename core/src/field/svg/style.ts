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

/** "#RRGGBB"; null for no paint, also where nothing of it shows. A gradient or pattern counts as middle grey. */
export function paintOf(what: "fill" | "stroke", style: Declarations): string | null {
  const value = style[what] ?? (what === "fill" ? "black" : "none");
  if (value === "none" || value === "transparent" || opacityOf(style[`${what}-opacity`]) <= 0) return null;
  const named = value === "currentColor" ? (style.color ?? "black") : value;
  if (/^url\(/.test(named)) return "#808080";
  const colour = rgb(named);
  if (Number.isNaN(colour.r) || colour.opacity === 0) return null;
  return rgb(colour.r, colour.g, colour.b).formatHex().toUpperCase();
}

export function shown(style: Declarations): boolean {
  return style.display !== "none" && style.visibility !== "hidden" && opacityOf(style.opacity) > 0;
}

/** A share from a number or a percentage; what is neither shows wholly. */
function opacityOf(text: string | undefined): number {
  const share = Number.parseFloat(text ?? "1");
  if (Number.isNaN(share)) return 1;
  return text?.trim().endsWith("%") ? share / 100 : share;
}

/** Pixels to the inch. Source: CSS Values and Units, level 3, 5.2. */
const PX_PER_INCH = 96;
/** As Sodipodi, and Inkscape before 0.92, wrote them. */
const EARLY_PX_PER_INCH = 90;

const MM: Readonly<Record<string, number>> = { mm: 1, cm: 10, m: 1000, in: 25.4, pt: 25.4 / 72, pc: 25.4 / 6, q: 0.25 };

/** How many px an inch of a drawing has, by the program that wrote it. @param root - its outermost element */
export function pxPerInch({ attributes }: XmlNode): number {
  const version = /^(\d+)\.(\d+)/.exec(attributes["inkscape:version"] ?? "");
  if (version) return Number(version[1]) === 0 && Number(version[2]) < 92 ? EARLY_PX_PER_INCH : PX_PER_INCH;
  return attributes["sodipodi:version"] === undefined ? PX_PER_INCH : EARLY_PX_PER_INCH;
}

/** A length of a document's width or height, mm; null when it has none that stands by itself. */
export function lengthMm(text: string | undefined, perInch: number): number | null {
  const match = /^\s*([+]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?)\s*([a-z]*)\s*$/i.exec(text ?? "");
  const unit = (match?.[2] ?? "").toLowerCase();
  const scale = unit === "" || unit === "px" ? 25.4 / perInch : MM[unit];
  return match && scale !== undefined ? Number(match[1]) * scale : null;
}

/** A number in user units; lengths with units in px. */
export function userUnits(text: string | undefined, otherwise: number, perInch: number): number {
  if (text === undefined) return otherwise;
  const match = /^\s*([+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?)\s*([a-z%]*)\s*$/i.exec(text);
  if (!match) return otherwise;
  const unit = (match[2] ?? "").toLowerCase();
  if (unit === "" || unit === "px") return Number(match[1]);
  const scale = MM[unit];
  return scale === undefined ? otherwise : (Number(match[1]) * scale) / (25.4 / perInch);
}
